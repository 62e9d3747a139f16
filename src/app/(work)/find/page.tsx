import { FindScreen } from "#ui/find/find-screen.tsx";

export default function FindPage() {
  return <FindScreen />;
}
