import { readFile } from "node:fs/promises";
import path from "node:path";

/** Calls of a running instance with the administrator's key. */
export interface Call {
  get<T>(address: string): Promise<T>;
  post<T>(address: string, body: unknown): Promise<T>;
  upload(name: string, bytes: Uint8Array, queue: string): Promise<{ readonly id: string }>;
}

/** Reads the key that the fill wrote and answers what calls with it. Throws what is not answered well: a measurement of errors is none. */
export async function callAs(dataFolder: string, url: string): Promise<Call> {
  const { keys } = JSON.parse(await readFile(path.join(dataFolder, "credentials.json"), "utf8")) as { keys: { administrator: string } };
  const headers = { authorization: `Bearer ${keys.administrator}` };
  const json = async <T>(answer: Response): Promise<T> => {
    if (!answer.ok) throw new Error(`${answer.url} ${answer.status} ${await answer.text()}`);
    return (await answer.json()) as T;
  };
  return {
    get: async (address) => json(await fetch(`${url}/api/v1${address}`, { headers })),
    post: async (address, body) =>
      json(
        await fetch(`${url}/api/v1${address}`, {
          method: "POST",
          headers: { ...headers, "content-type": "application/json" },
          body: JSON.stringify(body),
        }),
      ),
    async upload(name, bytes, queue) {
      const form = new FormData();
      form.set("queue", queue);
      form.set("company", "MF");
      form.set("file", new Blob([new Uint8Array(bytes)]), name);
      return json(await fetch(`${url}/api/v1/arrivals`, { method: "POST", headers, body: form }));
    },
  };
}
