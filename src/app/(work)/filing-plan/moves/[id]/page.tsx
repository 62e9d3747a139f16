import { MovePlanScreen } from "#ui/filing-plan/move-plan-screen.tsx";

export default async function MovePlanPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <MovePlanScreen key={id} id={id} />;
}
