import { defaultLimits } from "#core/arrivals/limits.ts";
import { type RegisterRefused, type SendFile, type Upload, UploadQueue } from "./upload-queue.ts";

const target = { queue: "general", label: "General" };
const files = (...names: string[]): File[] => names.map((name) => new File(["words"], name));

/** A queue whose sending is in the test's hands. */
function makeQueue(send: SendFile, register: RegisterRefused = async () => true) {
  let told = 0;
  const queue = new UploadQueue(send, () => told++, register);
  const states = (): string[] => queue.snapshot().map((u: Upload) => `${u.name} ${u.state}`);
  const settled = async (): Promise<void> => {
    while (queue.snapshot().some((u) => u.state === "waiting" || u.state === "sending"))
      await new Promise((resolve) => setTimeout(resolve, 5));
  };
  return { queue, states, settled, told: () => told };
}

describe("Files on their way in", () => {
  test("go a few at a time, each with its progress, and whoever looks is told", async () => {
    let running = 0;
    let most = 0;
    const shares: number[] = [];
    const { queue, settled, told } = makeQueue(async (_file, _id, _target, onShare) => {
      most = Math.max(most, ++running);
      onShare(0.5);
      shares.push(
        ...queue
          .snapshot()
          .filter((u) => u.state === "sending")
          .map((u) => u.share),
      );
      await new Promise((resolve) => setTimeout(resolve, 5));
      running--;
      return null;
    });
    let heard = 0;
    const stop = queue.subscribe(() => heard++);
    queue.add(files(...Array.from({ length: 12 }, (_, i) => `${i}.pdf`)), target, defaultLimits);
    await settled();
    expect(most).toBe(4);
    expect(shares).toContain(0.5);
    expect(queue.snapshot().every((u) => u.state === "received" && u.share === 1)).toBe(true);
    expect(heard).toBeGreaterThan(12);
    expect(told()).toBeGreaterThan(0);
    stop();
  });
  test("an empty file and a program are refused and go into the register; one that is too large is not sent at all", async () => {
    const registered: string[] = [];
    const { queue, settled } = makeQueue(
      async () => null,
      async (file, _id, _target, why) => {
        registered.push(`${file.name}: ${why}`);
        return !file.name.startsWith("away");
      },
    );
    queue.add([...files("run.exe", "away.exe"), new File([], "nothing.pdf"), new File(["x".repeat(2000)], "big.pdf")], target, {
      ...defaultLimits,
      bytesMax: 1024,
    });
    await settled();
    while (registered.length < 3) await new Promise((resolve) => setTimeout(resolve, 5));
    await new Promise((resolve) => setTimeout(resolve, 5));
    expect(registered).toEqual([
      "run.exe: Programs are not accepted.",
      "away.exe: Programs are not accepted.",
      "nothing.pdf: The file is empty.",
    ]);
    expect(queue.snapshot().map((u) => [u.state, u.why])).toEqual([
      ["refused", "Programs are not accepted. It is set aside in the register."],
      ["refused", "Programs are not accepted."],
      ["refused", "The file is empty. It is set aside in the register."],
      ["refused", expect.stringContaining("larger") as string],
    ]);
  });
  test("what breaks a limit is refused at once with the reason and never sent", async () => {
    const sent: string[] = [];
    const { queue, states, settled } = makeQueue(async (file) => {
      sent.push(file.name);
      return null;
    });
    queue.add([...files("good.pdf", "run.exe"), new File([], "nothing.pdf")], target, { ...defaultLimits, bytesMax: 1024 });
    await settled();
    expect(states()).toEqual(["good.pdf received", "run.exe refused", "nothing.pdf refused"]);
    expect(sent).toEqual(["good.pdf"]);
    expect(
      queue
        .snapshot()
        .filter((u) => u.state === "refused")
        .every((u) => (u.why ?? "").length > 10),
    ).toBe(true);
  });
  test("more files than one drop may have are said to be left out", async () => {
    const { queue, settled } = makeQueue(async () => null);
    queue.add(files("1", "2", "3", "4", "5"), target, { ...defaultLimits, filesMax: 3 });
    await settled();
    expect(queue.snapshot().at(-1)).toMatchObject({ name: "2 more", state: "refused" });
    expect(queue.snapshot().filter((u) => u.state === "received")).toHaveLength(3);
  });
  test("a broken connection is tried again with the same key, so that nothing comes in twice", async () => {
    const keys: string[] = [];
    const { queue, states, settled } = makeQueue(async (_file, id) => {
      keys.push(id);
      if (keys.length < 3) throw new Error("again");
      return null;
    });
    queue.add(files("patient.pdf"), target, defaultLimits);
    await settled();
    expect(states()).toEqual(["patient.pdf received"]);
    expect(new Set(keys).size).toBe(1);
    expect(keys).toHaveLength(3);
  });
  test("what the server refuses is shown with its words and not tried again", async () => {
    let times = 0;
    const { queue, settled } = makeQueue(async () => {
      times++;
      return "There is no such queue";
    });
    queue.add(files("a.pdf"), target, defaultLimits);
    await settled();
    expect(queue.snapshot()[0]).toMatchObject({ state: "refused", why: "There is no such queue" });
    expect(times).toBe(1);
  });
  test("stopping breaks off what is under way, sends no more, and keeps what was taken in", async () => {
    const { queue, states, settled } = makeQueue((file, _id, _target, _share, signal) =>
      file.name === "0"
        ? Promise.resolve(null)
        : new Promise((_, reject) => signal.addEventListener("abort", () => reject(new Error("stopped")))),
    );
    queue.add(files("0", "1", "2", "3", "4", "5"), target, defaultLimits);
    await new Promise((resolve) => setTimeout(resolve, 10));
    queue.stop();
    await settled();
    expect(states()).toEqual(["0 received", "1 refused", "2 refused", "3 refused", "4 refused", "5 refused"]);
    queue.clear();
    expect(queue.snapshot()).toEqual([]);
    queue.add(files("0"), target, defaultLimits);
    await settled();
    expect(states()).toEqual(["0 received"]);
  });
  test("the list is not forgotten while something is under way", async () => {
    let release = (): void => {};
    const { queue, settled } = makeQueue(() => new Promise((resolve) => (release = () => resolve(null))));
    queue.add(files("slow.pdf"), target, defaultLimits);
    queue.clear();
    expect(queue.snapshot()).toHaveLength(1);
    release();
    await settled();
  });
});
