-- Sections that the papers of records of a type stand under (F2, F6).
create table section_template (
  record_type text primary key references record_type(key),
  version integer not null,
  tree jsonb not null,
  -- all: every record of the type has it. choice: those that somebody gave it to.
  applies text not null check (applies in ('all', 'choice')),
  changed_at timestamp(3) with time zone not null,
  changed_by text not null
);
--> statement-breakpoint
-- A record that was given the template by choice (no tree), or has sections of its own.
create table record_sections (
  record_id bigint primary key references record(id),
  tree jsonb,
  changed_at timestamp(3) with time zone not null,
  changed_by text not null
);
