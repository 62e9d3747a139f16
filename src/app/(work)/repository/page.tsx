import { RepositoryScreen } from "#ui/repository/repository-screen.tsx";

export default function RepositoryPage() {
  return <RepositoryScreen />;
}
