import { FlipScreen } from "#ui/records/flip-screen.tsx";

export default async function FlipPage({
  params,
  searchParams,
}: {
  params: Promise<{ type: string; key: string }>;
  searchParams: Promise<{ company?: string }>;
}) {
  const { type, key } = await params;
  return <FlipScreen type={type} recordKey={decodeURIComponent(key)} company={(await searchParams).company ?? ""} />;
}
