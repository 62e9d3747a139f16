import { MissingScreen } from "#ui/checklists/missing-screen.tsx";

export default function MissingPage() {
  return <MissingScreen />;
}
