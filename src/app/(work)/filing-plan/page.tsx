import { PlanScreen } from "#ui/filing-plan/plan-screen.tsx";

export default function FilingPlanPage() {
  return <PlanScreen />;
}
