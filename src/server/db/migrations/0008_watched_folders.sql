alter table queue add column watch_after text;
--> statement-breakpoint
alter table queue add constraint queue_watch_after_known check (watch_after in ('keep','done','remove'));
--> statement-breakpoint
create table watched_file (
  queue text not null references queue(key),
  path text not null,
  size_bytes bigint not null,
  modified_ms bigint not null,
  sha256 text,
  why text,
  seen_at timestamp(3) with time zone not null,
  primary key (queue, path)
);
