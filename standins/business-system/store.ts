import pg from "pg";

/** A record as the business system keeps it. Amounts and days are texts, as they are sent. */
export interface BusinessRecord {
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly fields: Readonly<Record<string, string>>;
  readonly lines: readonly Readonly<Record<string, string>>[] | null;
  readonly parent: { readonly type: string; readonly key: string } | null;
  readonly follows: readonly { readonly type: string; readonly key: string }[];
  /** The draft that it was made from. */
  readonly draft: string | null;
}

/** A web hook's message that waits to be delivered, or was. */
export interface OutgoingEvent {
  readonly id: string;
  readonly payload: unknown;
  readonly attempts: number;
}

const tables = `
create table if not exists record (
  company text not null, type text not null, key text not null, title text not null, status text,
  fields jsonb not null, lines jsonb, parent jsonb, follows jsonb not null default '[]', draft uuid unique, changed_at timestamptz not null default now(),
  primary key (company, type, key));
do $$ begin alter table record rename column above to parent; exception when undefined_column or duplicate_column then null; end $$;
create index if not exists record_list on record (type, changed_at desc);
create table if not exists counter (name text primary key, value bigint not null);
create table if not exists hook (url text primary key, secret text not null);
create table if not exists event (
  id uuid primary key default gen_random_uuid(), at timestamptz not null default clock_timestamp(), payload jsonb not null,
  attempts int not null default 0, due_at timestamptz not null default now(), delivered_at timestamptz, problem text, number bigserial);
create index if not exists event_due on event (number) where delivered_at is null;
create table if not exists fault (one boolean primary key default true check (one), slow_ms int not null default 0, refuses boolean not null default false,
  down boolean not null default false, drops boolean not null default false);
insert into fault default values on conflict do nothing;`;

export type Client = pg.PoolClient;

/** The small database of the stand-in. Makes its tables when they are not there. */
export async function openStore(url: string): Promise<pg.Pool> {
  const pool = new pg.Pool({ connectionString: url, max: 6 });
  pool.on("error", () => {});
  await pool.query(tables);
  return pool;
}

/** Does something in one transaction. */
export async function within<T>(pool: pg.Pool, act: (client: Client) => Promise<T>): Promise<T> {
  const client = await pool.connect();
  try {
    await client.query("begin");
    const made = await act(client);
    await client.query("commit");
    return made;
  } catch (error) {
    await client.query("rollback").catch(() => {});
    throw error;
  } finally {
    client.release();
  }
}

/** One record; null when there is none. */
export async function findRecord(client: pg.Pool | Client, company: string, type: string, key: string): Promise<BusinessRecord | null> {
  const found = await client.query("select * from record where company = $1 and type = $2 and key = $3", [company, type, key]);
  return (found.rows[0] as BusinessRecord | undefined) ?? null;
}

/** Writes a record, and tells it to whoever listens, in one transaction. */
export async function saveRecord(client: Client, r: BusinessRecord, options: { readonly quiet?: boolean } = {}): Promise<void> {
  await client.query(
    `insert into record (company, type, key, title, status, fields, lines, parent, follows, draft) values ($1,$2,$3,$4,$5,$6,$7,$8,$9,$10)
     on conflict (company, type, key) do update set title = excluded.title, status = excluded.status, fields = excluded.fields, lines = excluded.lines,
       parent = excluded.parent, follows = excluded.follows, draft = coalesce(excluded.draft, record.draft), changed_at = now()`,
    [
      r.company,
      r.type,
      r.key,
      r.title,
      r.status,
      JSON.stringify(r.fields),
      r.lines && JSON.stringify(r.lines),
      r.parent && JSON.stringify(r.parent),
      JSON.stringify(r.follows),
      r.draft,
    ],
  );
  if (!options.quiet)
    await client.query("insert into event (payload) values ($1)", [JSON.stringify({ kind: "record", record: r, draft: r.draft })]);
}

/** The next number of a series, such as SI-8801. */
export async function nextNumber(client: Client, company: string, type: string, prefix: string): Promise<string> {
  const name = `${company} ${type}`;
  const found = await client.query<{ value: string }>(
    `insert into counter (name, value) values ($1, (select coalesce(max((regexp_match(key, '^' || $4 || '-(\\d+)$'))[1]::bigint), 1000) + 1 from record where company = $2 and type = $3))
     on conflict (name) do update set value = counter.value + 1 returning value`,
    [name, company, type, prefix],
  );
  return `${prefix}-${found.rows[0]?.value ?? ""}`;
}
