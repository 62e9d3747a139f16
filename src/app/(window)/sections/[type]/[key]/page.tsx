import { SectionsWindow } from "#ui/sections/sections-window.tsx";

export default async function SectionsPage({
  params,
  searchParams,
}: {
  params: Promise<{ type: string; key: string }>;
  searchParams: Promise<{ company?: string }>;
}) {
  const { type, key } = await params;
  return <SectionsWindow type={type} recordKey={decodeURIComponent(key)} company={(await searchParams).company ?? ""} />;
}
