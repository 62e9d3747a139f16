-- What looking at a page's picture brings: words read off it, barcodes, ink, how it lies.
alter table content_page add column words_from text;
--> statement-breakpoint
update content_page set words_from = case when jsonb_array_length(words) > 0 then 'layer' else 'none' end;
--> statement-breakpoint
alter table content_page add constraint content_page_words_from check (words_from in ('layer','picture','none'));
--> statement-breakpoint
alter table content_page add column ink real, add column codes jsonb not null default '[]'::jsonb, add column turn smallint not null default 0,
  add column slant real, add column print bigint;
--> statement-breakpoint
alter table content_page add constraint content_page_turn check (turn in (0,90,180,270));
--> statement-breakpoint
alter table content add column looked text not null default 'no', add column cuts jsonb not null default '[]'::jsonb;
--> statement-breakpoint
alter table content add constraint content_looked check (looked in ('no','going','yes','stopped'));
--> statement-breakpoint
update content set looked = 'yes' where state <> 'unread';
