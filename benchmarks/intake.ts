import { execFile } from "node:child_process";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { promisify } from "node:util";
import * as compose from "#scenario/papers/compose.ts";
import { drawPdf, LAYOUTS } from "#scenario/papers/draw-pdf.ts";
import { makeWorld } from "#scenario/world.ts";
import type { Call } from "./call.ts";
import { print, seconds, short, sideBySide } from "./measure.ts";

const run = promisify(execFile);

/**
 * Files in until they are ready (landed, hashed, in the register, read with word positions, first page drawn), against what the machine
 * does at best with the same files in the same run: sha256sum and pdftotext -bbox over them, two at a time as the worker has two.
 */
export async function benchIntake(call: Call, folder: string, files: number): Promise<readonly string[]> {
  const world = makeWorld();
  const orders = world.of("MF", "purchaseOrder");
  const papers: { name: string; bytes: Uint8Array }[] = [];
  const source = path.join(folder, "intake");
  await mkdir(source, { recursive: true });
  for (let i = 0; i < files; i++) {
    const order = orders[i % orders.length];
    if (!order) throw new Error("no orders");
    const bytes = await drawPdf(compose.supplierInvoice(world, order, `BN-${i}`, "2026-11-18"), i % LAYOUTS);
    papers.push({ name: `bench ${i}.pdf`, bytes });
    await writeFile(path.join(source, `${i}.pdf`), bytes);
  }
  const megabytes = papers.reduce((sum, p) => sum + p.bytes.length, 0) / 1e6;
  const bare = await seconds(() =>
    run("sh", ["-c", `ls | xargs -P 2 -I{} sh -c 'sha256sum {} >/dev/null && pdftotext -bbox {} /dev/null'`], { cwd: source }),
  );
  const ids: string[] = [];
  let answered = 0;
  const whole = await seconds(async () => {
    answered = await seconds(() =>
      sideBySide(
        papers.map((p) => async () => void ids.push((await call.upload(p.name, p.bytes, "payables")).id)),
        4,
      ),
    );
    for (;;) {
      const { total } = await call.get<{ total: number }>("/arrivals?state=waiting,reading&limit=1");
      if (total === 0) return;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  });
  print("intake", {
    files,
    megabytes: short(megabytes),
    filesPerSecondUntilReady: short(files / whole),
    megabytesPerSecondUntilReady: short(megabytes / whole),
    filesPerSecondAnswered: short(files / answered),
    bareFilesPerSecond: short(files / bare),
    timesBare: short(whole / bare),
  });
  return ids;
}
