import { execFile } from "node:child_process";
import { mkdirSync, writeFileSync } from "node:fs";
import { mkdir, rename } from "node:fs/promises";
import path from "node:path";
import { createHash } from "node:crypto";
import { promisify } from "node:util";
import type pg from "pg";
import { PutObjectCommand, S3Client } from "@aws-sdk/client-s3";
import { createClient } from "webdav";
import type { StandIns } from "#ops/instance.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { bucketRepository } from "#server/ports/repositories/bucket.ts";
import { webdavRepository } from "#server/ports/repositories/webdav.ts";
import type { Call } from "./call.ts";
import { print, seconds, short, sideBySide } from "./measure.ts";

const run = promisify(execFile);
const FOLDERS_OF_ACCOUNT = 50;
/** Files carried to each server behind a line, and how many at once. */
const CARRIED = 300;
const AT_ONCE = 8;
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

interface Plan {
  readonly state: string;
  readonly steps: number;
  readonly documents: number;
  readonly done: number;
}

/** A changed rule over many placed documents: drawing, moving against bare renames, looking through against find; and what WebDAV and S3 cost above their bare clients. */
export async function benchRepository(
  call: Call,
  client: pg.Client,
  dataFolder: string,
  standIns: StandIns,
  documents: number,
): Promise<void> {
  const folders = Math.round(documents / 5);
  await fillPlaced(client, path.join(dataFolder, "repository"), folders);
  const rules = await call.get<{ rules: { recordType: string; version: number; rule: Record<string, unknown> }[] }>("/folder-rules");
  const now = rules.rules.find((r) => r.recordType === "freightBooking");
  if (!now) throw new Error("no rule");
  const rule = { ...now.rule, rootFolder: "Freight" };
  const preview = await seconds(() => call.post("/folder-rules/freightBooking/preview", { rule, sample: "odd", seed: 1 }));
  // Four times as many that have no folder yet: the preview looks at every record of the type.
  await client.query(
    `insert into record (company, type, key, title, date, fields, key_folded, title_folded, lookup_text) select 'MF', 'freightBooking', 'BX-' || g, 'Booking ' || g, date '2020-01-01',
       jsonb_build_object('sailingDate', '2020-01-01'), 'bx' || g, 'booking ' || g, 'booking ' || g from generate_series(1, $1::int) g`,
    [folders * 4],
  );
  await client.query("analyze record");
  const many = await seconds(() => call.post("/folder-rules/freightBooking/preview", { rule, sample: "odd", seed: 1 }));
  print("previewing a rule", { records: folders * 5, seconds: short(many), recordsOfFirst: folders, secondsOfFirst: short(preview) });
  // Looked through twice first: the first time everything is compared, from then on only what changed.
  const scan = async (): Promise<number> => {
    await client.query("update connection set scanned_at = null where key = 'companyFolders'");
    for (;;) {
      const { rows } = await client.query<{ scanned: { tookMs: number; files: number } | null; at: Date | null }>(
        "select scanned, scanned_at as at from connection where key = 'companyFolders'",
      );
      if (rows[0]?.at && rows[0].scanned && rows[0].scanned.files >= documents) return rows[0].scanned.tookMs / 1000;
      await pause(200);
    }
  };
  await scan();
  await scan();
  const looked: number[] = [];
  const bare: number[] = [];
  for (let i = 0; i < 3; i++) {
    bare.push(
      await seconds(() =>
        run("find", [path.join(dataFolder, "repository"), "-type", "f", "-printf", "%P\\0%s\\0%T@\\n"], { maxBuffer: 1 << 30 }),
      ),
    );
    looked.push(await scan());
  }
  const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
  print("looking a repository through that did not change", {
    files: documents,
    folders,
    seconds: short(median(looked)),
    findSeconds: short(median(bare)),
    ratio: short(median(looked) / median(bare)),
  });

  const began = performance.now();
  const { id } = await call.post<{ id: string }>("/move-plans", { recordType: "freightBooking", rule, version: now.version });
  let first = 0;
  let plan: Plan;
  for (;;) {
    plan = await call.get<Plan>(`/move-plans/${id}`);
    if (first === 0 && plan.steps > 0) {
      await call.get(`/move-plans/${id}/steps?limit=100`);
      first = (performance.now() - began) / 1000;
    }
    if (plan.state !== "drawing") break;
    await pause(50);
  }
  const drawn = (performance.now() - began) / 1000;
  print("drawing a plan", {
    documents: plan.documents,
    moves: plan.steps,
    previewSeconds: short(preview),
    firstPageSeconds: short(first),
    seconds: short(drawn),
  });

  // The same list of renames, bare, on a copy of the folders beside it.
  const list = (
    await client.query<{ a: string; b: string }>(
      "select from_path as a, to_path as b from move_step where plan_id = $1 order by position",
      [id],
    )
  ).rows;
  const copy = path.join(dataFolder, "bare");
  for (const { a, b } of list) {
    mkdirSync(path.join(copy, a), { recursive: true });
    mkdirSync(path.dirname(path.join(copy, b)), { recursive: true });
  }
  const renames = await seconds(async () => {
    for (const { a, b } of list) await rename(path.join(copy, a), path.join(copy, b));
  });
  const moving = await seconds(async () => {
    await call.post(`/move-plans/${id}/start`, {});
    for (;;) {
      plan = await call.get<Plan>(`/move-plans/${id}`);
      if (plan.state === "done") break;
      await pause(50);
    }
  });
  print("moving on disk", {
    moves: plan.done,
    seconds: short(moving),
    bareRenamesSeconds: short(renames),
    speedOfBare: short(renames / moving),
  });

  const local = path.join(dataFolder, "carried");
  await mkdir(local, { recursive: true });
  const files = Array.from({ length: CARRIED }, (_, i) => {
    const body = Buffer.from(`${i}\n`.repeat(8000));
    const file = path.join(local, String(i));
    writeFileSync(file, body);
    return { file, body, sha256: parseSha256(createHash("sha256").update(body).digest("hex")) };
  });
  const webdav = webdavRepository({ ...standIns.webdav, root: "bench" });
  await webdav.prepare();
  const dav = createClient(standIns.webdav.address, { username: standIns.webdav.user, password: standIns.webdav.password });
  await dav.createDirectory("/bare");
  await webdav.makeFolder("papers");
  print(
    "carrying to WebDAV",
    await carried(
      (i) => dav.putFileContents(`/bare/${i}`, files[i]?.body ?? Buffer.alloc(0)),
      async (i) => {
        const f = files[i];
        if (f) await webdav.put(`papers/${i}`, f.file, f.sha256);
      },
    ),
  );
  const s3 = standIns.bucket;
  const bucket = bucketRepository({
    address: s3.address,
    region: "us-east-1",
    bucket: s3.bucket ?? "",
    root: "bench",
    user: s3.user,
    password: s3.password,
  });
  await bucket.prepare();
  const bareS3 = new S3Client({
    endpoint: s3.address,
    region: "us-east-1",
    forcePathStyle: true,
    credentials: { accessKeyId: s3.user, secretAccessKey: s3.password },
    requestChecksumCalculation: "WHEN_REQUIRED",
  });
  print(
    "carrying to a bucket",
    await carried(
      (i) => bareS3.send(new PutObjectCommand({ Bucket: s3.bucket, Key: `bare/${i}`, Body: files[i]?.body })),
      async (i) => {
        const f = files[i];
        if (f) await bucket.put(`papers/${i}`, f.file, f.sha256);
      },
    ),
  );
}

/** The same files, bare and through the port, with the same number at once; in turns, so that both meet the same machine. */
async function carried(bare: (i: number) => Promise<unknown>, ours: (i: number) => Promise<unknown>): Promise<Record<string, number>> {
  const all = (act: (i: number) => Promise<unknown>): Promise<number> =>
    seconds(() =>
      sideBySide(
        Array.from({ length: CARRIED }, (_, i) => () => act(i)),
        AT_ONCE,
      ),
    );
  const bareSeconds = await all(bare);
  const ourSeconds = await all(ours);
  return {
    files: CARRIED,
    atOnce: AT_ONCE,
    filesPerSecond: short(CARRIED / ourSeconds),
    bareFilesPerSecond: short(CARRIED / bareSeconds),
    share: short(bareSeconds / ourSeconds),
  };
}

/** Bookings beneath accounts with five placed documents each, in the tables and as files on disk, as filing would have left them. */
async function fillPlaced(client: pg.Client, root: string, folders: number): Promise<void> {
  const accounts = Math.ceil(folders / FOLDERS_OF_ACCOUNT);
  const clerk = (await client.query<{ id: string }>(`select id from "user" order by id limit 1`)).rows[0]?.id;
  const record = "company, type, key, title, date, fields, above_id, key_folded, title_folded, lookup_text";
  await client.query(
    `insert into record (${record}) select 'MF', 'customerAccount', 'BC-' || g, 'Bench ' || g, null, jsonb_build_object('name', 'Bench ' || g), null, 'bc' || g, 'bench ' || g, 'bench ' || g
     from generate_series(1, $1::int) g`,
    [accounts],
  );
  await client.query(
    `insert into record (${record}) select 'MF', 'freightBooking', 'BB-' || g, 'Booking ' || g, date '2020-01-01' + (g % 2200), jsonb_build_object('sailingDate', to_char(date '2020-01-01' + (g % 2200), 'YYYY-MM-DD')),
       (select id from record a where a.company = 'MF' and a.type = 'customerAccount' and a.key = 'BC-' || (1 + g % $2::int)), 'bb' || g, 'booking ' || g, 'booking ' || g
     from generate_series(1, $1::int) g`,
    [folders, accounts],
  );
  await client.query(
    `insert into folder (record_id, connection, path, path_folded, rule_stamp) select id, 'companyFolders', 'Customers/' || title || ' ' || key, lower('Customers/' || title || ' ' || key), ''
     from record where key like 'BC-%'`,
  );
  await client.query(
    `insert into folder (record_id, connection, path, path_folded, rule_stamp)
     select r.id, 'companyFolders', f.path || '/Bookings/' || to_char(r.date, 'YYYY') || '/' || r.key, f.path_folded || '/bookings/' || to_char(r.date, 'YYYY') || '/' || lower(r.key), ''
     from record r join folder f on f.record_id = r.above_id where r.key like 'BB-%'`,
  );
  const rows = (
    await client.query<{ id: number; path: string }>(
      "select f.id, f.path from folder f join record r on r.id = f.record_id where r.key like 'BB-%' order by f.id",
    )
  ).rows;
  const made: { folder: number; name: string; bytes: number; modified: number }[] = [];
  const { lstatSync } = await import("node:fs");
  for (const f of rows) {
    mkdirSync(path.join(root, f.path), { recursive: true });
    for (let n = 1; n <= 5; n++) {
      const file = path.join(root, f.path, `Letter ${n}.txt`);
      writeFileSync(file, `${f.id} ${n}`);
      const s = lstatSync(file);
      made.push({ folder: f.id, name: `Letter ${n}.txt`, bytes: s.size, modified: Math.trunc(s.mtimeMs) });
    }
  }
  await client.query(
    "create temp table made as select row_number() over () as n, (x->>'folder')::bigint as folder, x->>'name' as name, (x->>'bytes')::bigint as bytes, (x->>'modified')::bigint as modified from jsonb_array_elements($1::jsonb) x",
    [JSON.stringify(made)],
  );
  await client.query(
    "insert into access_class (company, document_type, confidential, record_types) values ('MF', 'letter', false, array['freightBooking']) on conflict do nothing",
  );
  await client.query("alter table made add id bigint");
  await client.query("update made set id = nextval('document_id_seq')");
  await client.query(
    "insert into content (sha256, size_bytes, state) select encode(sha256(('placed' || id)::bytea), 'hex'), bytes, 'read' from made",
  );
  await client.query(
    `insert into document (id, code, company, document_type, title, properties, confidential, acl_id, document_date, filed_at, filed_by)
     select id, 'AC-' || lpad(id::text, 6, '0'), 'MF', 'letter', regexp_replace(name, '\\.txt$', ''), '{}', false,
       (select a.id from access_class a where a.company = 'MF' and a.document_type = 'letter' and a.record_types = array['freightBooking'] and not a.confidential), now(), now(), $1 from made`,
    [clerk],
  );
  await client.query(
    "insert into document_version (document_id, number, sha256, file_name, made_at, made_by) select id, 1, encode(sha256(('placed' || id)::bytea), 'hex'), name, now(), $1 from made",
    [clerk],
  );
  await client.query(
    "insert into clip (document_id, record_id, position, made_at, made_by) select m.id, f.record_id, 0, now(), $1 from made m join folder f on f.id = m.folder",
    [clerk],
  );
  await client.query(
    `insert into placement (document_id, folder_id, name, name_folded, state, sha256, checked_at, seen_bytes, seen_modified_ms, seen_mark)
     select id, folder, name, lower(name), 'placed', encode(sha256(('placed' || id)::bytea), 'hex'), now(), bytes, modified, '' from made`,
  );
  await client.query("vacuum analyze");
}
