import { DeskScreen } from "#ui/desk/desk-screen.tsx";

export default function DeskPage() {
  return <DeskScreen />;
}
