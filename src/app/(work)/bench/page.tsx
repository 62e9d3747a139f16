import { BenchScreen } from "#ui/bench/bench-screen.tsx";
import { queryOf } from "#ui/kit/api.ts";
import { askAhead } from "#ui/kit/ask-ahead.ts";

export default async function Page({ searchParams }: { searchParams: Promise<{ arrivals?: string; documents?: string }> }) {
  const { arrivals, documents } = await searchParams;
  if (arrivals ?? documents) askAhead(`/bench${queryOf({ arrivals, documents })}`);
  return <BenchScreen />;
}
