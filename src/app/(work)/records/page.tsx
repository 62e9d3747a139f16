import { RecordTypesScreen } from "#ui/records/record-types-screen.tsx";

export default function RecordsPage() {
  return <RecordTypesScreen />;
}
