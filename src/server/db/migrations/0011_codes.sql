-- Codes printed on cover sheets and labels: which record and document type each stands for.
create table own_code (
  number bigint primary key generated always as identity,
  kind text not null,
  record_id bigint not null references record(id),
  document_type text references document_type(key),
  made_at timestamp(3) with time zone not null,
  made_by text not null,
  constraint own_code_kind check (kind in ('coverSheet','label'))
);
--> statement-breakpoint
create unique index own_code_once on own_code (kind, record_id, coalesce(document_type, ''));
--> statement-breakpoint
create index own_code_record on own_code (record_id);
