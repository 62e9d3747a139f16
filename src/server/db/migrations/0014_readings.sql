-- What a record can be recognised by on a paper: its key in its spellings, numbers, identifiers, names (C2, D1).
create table record_reference (
  record_id bigint not null references record(id) on delete cascade,
  kind text not null,
  reference text not null,
  primary key (record_id, kind, reference)
);
--> statement-breakpoint
create index record_reference_by on record_reference (reference, kind);
--> statement-breakpoint
-- With which version of the rules its references were entered; 0 is not yet.
alter table record add column references_version smallint not null default 0;
--> statement-breakpoint
create index record_without_references on record (id) where references_version < 1;
--> statement-breakpoint
-- What was read off an arrival and which records it may belong to, made with which weights. Made anew whenever something of it changes.
create table arrival_reading (
  arrival_id uuid primary key references arrival(id),
  readings jsonb not null default '[]',
  doubts jsonb not null default '[]',
  types jsonb not null default '[]',
  suggestions jsonb not null default '[]',
  none real not null default 1,
  sender_id bigint references record(id) on delete set null,
  -- Whose layouts it is read with: an account, or a mail's domain.
  sender_key text,
  -- References on it, while it waits: a record that comes later is found by them.
  probes text[] not null default '{}',
  weights_version integer not null,
  made_at timestamp(3) with time zone not null
);
--> statement-breakpoint
create index arrival_reading_probes on arrival_reading using gin (probes);
--> statement-breakpoint
-- Where senders keep their fields, each from a paper that a person confirmed (C4).
create table field_place (
  id bigserial primary key,
  sender_key text not null,
  arrival_id uuid not null references arrival(id),
  field text not null,
  value text not null,
  page text not null,
  label text,
  relation text,
  x real not null,
  y real not null,
  right_edge real not null,
  shape text not null,
  -- Whether the program had read it right by itself; null when it had not been asked.
  was_right boolean,
  made_at timestamp(3) with time zone not null,
  made_by text not null
);
--> statement-breakpoint
create index field_place_sender on field_place (sender_key, id desc);
--> statement-breakpoint
create unique index field_place_once on field_place (arrival_id, field, value);
--> statement-breakpoint
-- The latest documents of a type, for learning what their papers look like.
create index document_by_type on document (document_type, id desc);
--> statement-breakpoint
-- Senders whose layouts an administrator had forgotten: what was confirmed before then teaches no more.
create table forgotten_sender (
  sender_key text primary key,
  forgotten_at timestamp(3) with time zone not null,
  forgotten_by text not null
);
--> statement-breakpoint
-- Papers by their own number, as it is compared: an invoice that comes twice is found by it.
create index document_by_number on document (lower(regexp_replace(properties ->> 'documentNumber', '[^[:alnum:]]', '', 'g')))
  where properties ->> 'documentNumber' is not null and unfiled_at is null;
