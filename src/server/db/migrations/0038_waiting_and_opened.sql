-- Words of arrivals that are not filed yet, so that Find finds them too. Filled by the worker; rows of arrivals that wait no longer are cleared by it.
create table search_waiting (
  arrival_id uuid primary key references arrival (id),
  tsv tsvector not null
);
--> statement-breakpoint
create index search_waiting_words on search_waiting using gin (tsv);
--> statement-breakpoint
-- Which records a person opened, and when last.
create table record_opened (
  person_id text not null,
  record_id bigint not null references record (id) on delete cascade,
  at timestamptz not null default now(),
  primary key (person_id, record_id)
);
--> statement-breakpoint
create index record_opened_newest on record_opened (person_id, at desc);
