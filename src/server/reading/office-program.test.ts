import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { officeProgram } from "./office-program.ts";

test("The reader of office files is run as it was built, and from its source while that is not there", async () => {
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-programs-"));
  const before = process.env["AMBER_PROGRAMS"];
  try {
    delete process.env["AMBER_PROGRAMS"];
    expect(officeProgram().at(-1)).toMatch(/office-child\.ts$/);
    process.env["AMBER_PROGRAMS"] = folder;
    expect(officeProgram().at(-1)).toMatch(/office-child\.ts$/);
    await writeFile(path.join(folder, "office-child.mjs"), "");
    expect(officeProgram()).toEqual([path.join(folder, "office-child.mjs")]);
  } finally {
    if (before === undefined) delete process.env["AMBER_PROGRAMS"];
    else process.env["AMBER_PROGRAMS"] = before;
    await rm(folder, { recursive: true, force: true });
  }
});
