import { auth } from "#server/people/auth.ts";

/** The sign-in library's own addresses: sign in, sign out, session. */
const handle = (request: Request): Promise<Response> => auth().handler(request);
export { handle as GET, handle as POST };
