import { DocumentScreen } from "#ui/documents/document-screen.tsx";

export default async function DocumentPage({ params }: { params: Promise<{ code: string }> }) {
  const { code } = await params;
  return <DocumentScreen key={code} code={code} />;
}
