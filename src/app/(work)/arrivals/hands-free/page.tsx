import { FiledScreen } from "#ui/hands-free/filed-screen.tsx";

export default function HandsFreePage() {
  return <FiledScreen />;
}
