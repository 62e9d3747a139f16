import { FiledScreen } from "#ui/automatic-filing/filed-screen.tsx";

export default function AutomaticFilingPage() {
  return <FiledScreen />;
}
