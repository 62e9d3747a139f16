-- What a content says, as a few numbers: contents that say nearly the same share some of them (A8).
create table content_print (
  sha256 text primary key references content(sha256),
  -- Hash of all its words: the same text in another wrapping has the same.
  text_hash bigint,
  -- For pictures without words: what its first page looks like.
  picture bigint,
  -- Sixty-four least hashes of its word triples, and these in groups of four.
  least integer[],
  bands integer[] not null default '{}'
);
--> statement-breakpoint
create index content_print_text on content_print (text_hash);
--> statement-breakpoint
create index content_print_bands on content_print using gin (bands);
--> statement-breakpoint
-- Senders whose mail is marked as junk, and by what that was taught.
create table junk_sender (
  address text primary key,
  arrival_id uuid references arrival(id),
  taught_at timestamp(3) with time zone not null,
  taught_by text not null
);
--> statement-breakpoint
-- A person said that it is another paper than those it looks like.
alter table arrival add column told_apart boolean not null default false;
