-- Records that were made here from a paper and sent to the business system (D5).
create sequence draft_number_seq start 1001;
--> statement-breakpoint
create table draft (
  id uuid primary key,
  record_id bigint not null unique references record(id),
  arrival_id uuid not null references arrival(id),
  company text not null references company(code),
  type text not null references record_type(key),
  -- What it is called until it has its number; it is found by that for good.
  key text not null unique,
  state text not null check (state in ('sending', 'accepted', 'refused', 'withdrawn')),
  -- Where each field's value came from: the paper (with its place), a record, or a person.
  sources jsonb not null default '{}',
  follows jsonb not null default '[]',
  -- What the business system refused, by field.
  reasons jsonb not null default '[]',
  -- Why there was no answer at the last try.
  problem text,
  attempts int not null default 0,
  next_try_at timestamp(3) with time zone,
  made_by text not null,
  made_at timestamp(3) with time zone not null,
  answered_at timestamp(3) with time zone
);
--> statement-breakpoint
-- A paper makes one record.
create unique index draft_of_arrival on draft (arrival_id) where state <> 'withdrawn';
--> statement-breakpoint
create index draft_open on draft (made_at) where state in ('sending', 'refused');
--> statement-breakpoint
-- Messages of the business system that were taken: a repeat is known by its id.
create table business_event (
  id uuid primary key,
  taken_at timestamp(3) with time zone not null
);
