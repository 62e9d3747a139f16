-- Somebody waits for the next batch of a scanner, for a record. A queue has at most one open wish.
create table scan_wish (
  id uuid primary key,
  person_id text not null,
  queue text not null references queue (key),
  record_id bigint not null references record (id),
  made_at timestamptz not null,
  until timestamptz not null,
  arrival_id uuid references arrival (id)
);
--> statement-breakpoint
create index scan_wish_open on scan_wish (queue, until) where arrival_id is null;
