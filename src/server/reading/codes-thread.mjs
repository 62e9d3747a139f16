/**
 * A thread that reads barcodes off pictures, so that the process it belongs to goes on meanwhile. Plain JavaScript without a loader.
 * Gets `{id, width, height, data}` (grey dots), answers `{id, codes:[{format, text, corners}]}` or `{id, failed}`.
 */
import { readFile } from "node:fs/promises";
import { createRequire } from "node:module";
import os from "node:os";
import { parentPort } from "node:worker_threads";
import { prepareZXingModule, readBarcodes } from "zxing-wasm/reader";

// On Linux this is the thread's own priority, not the process's.
try {
  os.setPriority(0, 10);
} catch {
  // Where it is not allowed it runs like everything else.
}
const wasmFile = createRequire(import.meta.url).resolve("zxing-wasm/reader/zxing_reader.wasm");
const wasm = await readFile(wasmFile);
// Given by hand: it would be fetched from the network otherwise.
await prepareZXingModule({
  overrides: { wasmBinary: wasm.buffer.slice(wasm.byteOffset, wasm.byteOffset + wasm.byteLength) },
  fireImmediately: true,
});

const options = {
  tryHarder: true,
  tryRotate: true,
  tryInvert: false,
  tryDownscale: true,
  maxNumberOfSymbols: 50,
  formats: ["QRCode", "MicroQRCode", "DataMatrix", "Aztec", "PDF417", "Code128", "Code39", "EAN13", "EAN8", "ITF", "Codabar"],
};

parentPort.on("message", async ({ id, width, height, data }) => {
  try {
    // As a file of grey dots, which the reader takes as it is: dots with colours would first have to be made, and then be made grey again.
    const head = Buffer.from(`P5\n${width} ${height}\n255\n`);
    const file = new Uint8Array(head.length + data.length);
    file.set(head);
    file.set(data, head.length);
    const found = await readBarcodes(file, options);
    const codes = found
      .filter((f) => f.isValid)
      .map((f) => ({
        format: f.format,
        text: f.text,
        corners: [f.position.topLeft, f.position.topRight, f.position.bottomRight, f.position.bottomLeft].map((p) => [p.x, p.y]),
      }));
    parentPort.postMessage({ id, codes });
  } catch (error) {
    parentPort.postMessage({ id, failed: String(error).slice(0, 200) });
  }
});
