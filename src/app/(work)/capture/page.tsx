import { CaptureScreen } from "#ui/capture/capture-screen.tsx";

export default function Page() {
  return <CaptureScreen />;
}
