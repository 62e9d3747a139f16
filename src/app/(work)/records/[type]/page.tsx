import { RecordsListScreen } from "#ui/records/records-list-screen.tsx";

export default async function RecordsOfTypePage({ params }: { params: Promise<{ type: string }> }) {
  const { type } = await params;
  return <RecordsListScreen key={type} typeKey={type} />;
}
