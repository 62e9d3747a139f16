/**
 * A WebDAV server on loopback over a folder, for the demo and the tests. Speaks RFC 4918 (PROPFIND, MKCOL, PUT, GET, MOVE, COPY, DELETE) with
 * basic authentication, PUT under the condition that nothing stands there. Does not imitate: TLS, digest authentication, quotas, locks that hold
 * against the same person.
 */
import { mkdir } from "node:fs/promises";
import { v2 as webdav } from "webdav-server";
import { startFaults } from "./faults.ts";
import { argumentsOf, endWithParent, freeLoopbackPort, standsBelow } from "./standin.ts";

const { port, folder, user, password, careless } = argumentsOf();
await mkdir(folder, { recursive: true });
const behind = await freeLoopbackPort();
const users = new webdav.SimpleUserManager();
const person = users.addUser(user, password, false);
const privileges = new webdav.SimplePathPrivilegeManager();
privileges.setRights(person, "/", ["all"]);
const server = new webdav.WebDAVServer({
  httpAuthentication: new webdav.HTTPBasicAuthentication(users, "Merrowick shares"),
  privilegeManager: privileges,
  requireAuthentification: true,
  hostname: "127.0.0.1",
  port: behind,
});
await server.setFileSystemAsync("/", new webdav.PhysicalFileSystem(folder), true);
await server.startAsync(behind);
await startFaults({ port, behind, careless, stands: (url) => standsBelow(folder, url) });
endWithParent();
console.log(`ready http://127.0.0.1:${port}`);
