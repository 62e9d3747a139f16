import { checkHealth } from "#server/api/health.ts";

/** Open to all: says whether the program can take work, and nothing else. */
export async function GET(): Promise<Response> {
  const health = await checkHealth();
  return Response.json(health, { status: health.status === "ok" ? 200 : 503, headers: { "cache-control": "no-store" } });
}
