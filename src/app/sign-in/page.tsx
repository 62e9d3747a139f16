import { SignInForm } from "#ui/people/sign-in-form.tsx";

export default async function SignInPage({ searchParams }: { searchParams: Promise<{ to?: string }> }) {
  const { to } = await searchParams;
  // Only a way inside: an address of another site must not be reached by signing in here.
  return <SignInForm to={to !== undefined && /^\/(?![/\\])/.test(to) ? to : "/desk"} />;
}
