import { ConnectionScreen } from "#ui/repository/connection-screen.tsx";

export default async function ConnectionPage({ params }: { params: Promise<{ key: string }> }) {
  const { key } = await params;
  return <ConnectionScreen key={key} connectionKey={key} />;
}
