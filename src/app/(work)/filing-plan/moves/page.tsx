import { MovePlansScreen } from "#ui/filing-plan/move-plan-screen.tsx";

export default function MovePlansPage() {
  return <MovePlansScreen />;
}
