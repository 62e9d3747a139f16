import { RecordScreen } from "#ui/records/record-screen.tsx";

export default async function RecordPage({
  params,
  searchParams,
}: {
  params: Promise<{ type: string; key: string }>;
  searchParams: Promise<{ company?: string }>;
}) {
  const { type, key } = await params;
  const { company } = await searchParams;
  return <RecordScreen key={`${type}/${key}`} type={type} recordKey={decodeURIComponent(key)} company={company} />;
}
