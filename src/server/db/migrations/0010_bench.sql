-- What the bench made knows its parent pages (promise 2).
create table arrival_page (
  arrival_id uuid not null references arrival(id),
  number integer not null,
  from_arrival uuid references arrival(id),
  from_document bigint references document(id),
  from_version integer,
  from_page integer not null,
  turn smallint not null default 0,
  primary key (arrival_id, number),
  constraint arrival_page_turn check (turn in (0,90,180,270)),
  constraint arrival_page_one_source check (num_nonnulls(from_arrival, from_document) = 1)
);
--> statement-breakpoint
create index arrival_page_from_arrival on arrival_page (from_arrival);
--> statement-breakpoint
create index arrival_page_from_document on arrival_page (from_document);
