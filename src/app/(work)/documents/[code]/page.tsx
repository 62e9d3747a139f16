import { DocumentScreen } from "#ui/documents/document-screen.tsx";

export default async function DocumentPage({
  params,
  searchParams,
}: {
  params: Promise<{ code: string }>;
  searchParams: Promise<{ q?: string }>;
}) {
  const { code } = await params;
  const { q } = await searchParams;
  return <DocumentScreen key={code} code={code} q={q} />;
}
