import { TemplatesScreen } from "#ui/sections/templates-screen.tsx";

export default function SectionTemplatesPage() {
  return <TemplatesScreen />;
}
