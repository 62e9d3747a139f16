import type { Call } from "./call.ts";
import { percentile, print, seconds, short, sideBySide } from "./measure.ts";

/** Documents filed by four clerks at once over the HTTP API, until answered and until every one is placed with proof. */
export async function benchFiling(call: Call, arrivals: readonly string[]): Promise<void> {
  const orders = (await call.get<{ items: { key: string }[] }>("/records?type=purchaseOrder&company=MF&limit=200")).items;
  const codes: string[] = [];
  const taken: number[] = [];
  let answered = 0;
  const whole = await seconds(async () => {
    answered = await seconds(() =>
      sideBySide(
        arrivals.map((id, i) => async () => {
          const began = performance.now();
          const filed = await call.post<{ code: string }>(`/arrivals/${id}/file`, {
            documentType: "supplierInvoice",
            clips: [{ company: "MF", type: "purchaseOrder", key: orders[i % orders.length]?.key }],
            properties: { documentNumber: `BN-${i}` },
          });
          taken.push(performance.now() - began);
          codes.push(filed.code);
        }),
        4,
      ),
    );
    for (const code of codes) {
      for (;;) {
        const { location } = await call.get<{ location: { state: string } }>(`/documents/${code}`);
        if (location.state === "stored") break;
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
    }
  });
  print("filing", {
    documents: arrivals.length,
    documentsPerSecondAnswered: short(arrivals.length / answered),
    documentsPerSecondUntilPlaced: short(arrivals.length / whole),
    answerP50Ms: short(percentile(taken, 0.5)),
    answerP95Ms: short(percentile(taken, 0.95)),
  });
}
