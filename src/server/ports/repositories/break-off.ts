import http from "node:http";
import https from "node:https";

/** A call that is broken off hangs up so long after its half was handed on, ms. */
const HANG_UP_MS = 60;
/** One whose half is not taken by then hangs up as it is, ms. */
const GIVE_UP_MS = 10_000;
/** The server is given this long to tidy up, ms. */
const TIDY_MS = 150;

/** Begins to put a file at an address (name and password in it), hangs up in the middle, and waits until the server has noticed. */
export async function breakOff(address: string, body: Buffer): Promise<void> {
  const url = new URL(address);
  const auth = `${decodeURIComponent(url.username)}:${decodeURIComponent(url.password)}`;
  await new Promise<void>((resolve) => {
    const request = (url.protocol === "https:" ? https : http).request(
      { hostname: url.hostname, port: url.port, path: url.pathname, method: "PUT", auth, headers: { "content-length": body.length } },
      (answered) => answered.resume(),
    );
    let hangUp = setTimeout(() => request.destroy(), GIVE_UP_MS);
    request.on("error", () => {});
    request.on("close", () => {
      clearTimeout(hangUp);
      resolve();
    });
    // Counted from then on: on a busy machine the line itself may take longer than that, and nothing would have been broken off.
    request.write(body.subarray(0, body.length / 2), () => {
      clearTimeout(hangUp);
      hangUp = setTimeout(() => request.destroy(), HANG_UP_MS);
    });
  });
  await new Promise((resolve) => setTimeout(resolve, TIDY_MS));
}
