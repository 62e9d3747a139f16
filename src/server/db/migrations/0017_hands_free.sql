-- Papers of one type in one queue that are filed without a person (D6). Off at first.
create table hands_free (
  queue text not null references queue(key),
  document_type text not null references document_type(key),
  is_on boolean not null default false,
  asked real not null,
  held_back real not null,
  -- Draws the lots of the sample: nobody can guess which papers are held back.
  secret text not null,
  -- With whose rights it files.
  lent_by text not null,
  changed_at timestamp(3) with time zone not null,
  -- What it measured when it switched itself off; null when a person did, or has seen it.
  off_why jsonb,
  primary key (queue, document_type)
);
--> statement-breakpoint
-- What the program would have done with a paper, or did, and what a person made of it.
create table hands_free_paper (
  arrival_id uuid primary key references arrival(id),
  -- What it became, once it is known.
  document_id bigint references document(id),
  queue text not null,
  document_type text not null,
  -- history: a person filed it as always; sample: held back from hands-free; filed: filed by the program.
  how text not null check (how in ('history', 'sample', 'filed')),
  state text not null check (state in ('waiting', 'checked', 'filed', 'corrected', 'undone')),
  would_file boolean not null,
  why text,
  decided jsonb,
  differences jsonb,
  at timestamp(3) with time zone not null,
  checked_at timestamp(3) with time zone
);
--> statement-breakpoint
create index hands_free_paper_checked on hands_free_paper (queue, document_type, checked_at desc) where state in ('checked', 'corrected');
--> statement-breakpoint
create index hands_free_paper_document on hands_free_paper (document_id);
--> statement-breakpoint
create index hands_free_paper_filed on hands_free_paper (at desc) where how = 'filed';
