import { ChecklistRulesScreen } from "#ui/checklists/rules-screen.tsx";

export default function ChecklistRulesPage() {
  return <ChecklistRulesScreen />;
}
