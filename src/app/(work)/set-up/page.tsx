import { SetUpScreen } from "#ui/set-up/set-up-screen.tsx";

export default function SetUpPage() {
  return <SetUpScreen />;
}
