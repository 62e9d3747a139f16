import { FindScreen } from "#ui/search/find-screen.tsx";

export default function FindPage() {
  return <FindScreen />;
}
