-- Papers taken out together (F9). Its progress is a job_run of the same id; its file is kept for some days.
create table pack (
  id uuid primary key,
  person_id text not null references "user"(id),
  format text not null check (format in ('pdf', 'folder')),
  label text not null,
  wish jsonb not null,
  records integer not null default 0,
  papers integer not null default 0,
  -- Papers that could not be put in, each with its reason.
  left_out jsonb not null default '[]',
  size_bytes bigint,
  sha256 text,
  made_at timestamp(3) with time zone not null,
  ready_at timestamp(3) with time zone,
  gone_at timestamp(3) with time zone
);
--> statement-breakpoint
create index pack_person on pack (person_id, made_at desc);
