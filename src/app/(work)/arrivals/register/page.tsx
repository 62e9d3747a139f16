import { RegisterScreen } from "#ui/arrivals/register-screen.tsx";

export default function RegisterPage() {
  return <RegisterScreen />;
}
