import { BenchScreen } from "#ui/bench/bench-screen.tsx";

export default function Page() {
  return <BenchScreen />;
}
