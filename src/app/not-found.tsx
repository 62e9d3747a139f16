import { Link } from "#ui/kit/link.tsx";
export default function NotFound() {
  return (
    <main className="empty">
      <h1 className="mb-1">There is nothing here</h1>
      <p>It may have moved, or you may not have the right to see it.</p>
      <Link className="btn btn-plain" href="/desk">
        To the desk
      </Link>
    </main>
  );
}
