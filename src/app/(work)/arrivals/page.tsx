import { ArrivalsScreen } from "#ui/arrivals/arrivals-screen.tsx";

export default function ArrivalsPage() {
  return <ArrivalsScreen />;
}
