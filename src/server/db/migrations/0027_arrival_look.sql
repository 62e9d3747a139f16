-- What reading an arrival gave, kept while it waits: it is found for again without being read again. Made anew whenever it is missing or of something else.
create table arrival_look (
  arrival_id uuid primary key references arrival (id) on delete cascade,
  stamp text not null,
  made_at timestamptz not null,
  body text not null
);
--> statement-breakpoint
alter table arrival_look alter column body set compression lz4;
