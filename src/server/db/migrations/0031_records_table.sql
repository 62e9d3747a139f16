-- The table of records is turned by any of its columns, for each company by itself: a page is read off an index, and the rows of that page only are put together.
drop index "record_recent";
--> statement-breakpoint
create index "record_recent" on "record" ("company", "type", "used_at", "id");
--> statement-breakpoint
create index "record_by_title" on "record" ("company", "type", "title_folded", "id");
--> statement-breakpoint
create index "record_by_date" on "record" ("company", "type", "date", "id");
--> statement-breakpoint
create index "record_by_amount" on "record" ("company", "type", "amount", "id");
--> statement-breakpoint
create index "record_by_papers" on "record" ("company", "type", "document_count", "id");
--> statement-breakpoint
-- How many records of a type a company has, as what each statement added or took away: whoever enters records waits for nobody. Added up now and then.
create table "record_tally" ("company" text not null, "type" text not null, "count" bigint not null);
--> statement-breakpoint
insert into "record_tally" ("company", "type", "count") select company, type, count(*) from record group by company, type;
--> statement-breakpoint
create function records_counted() returns trigger language plpgsql as $$
begin
  if tg_op = 'INSERT' then
    insert into record_tally (company, type, count) select company, type, count(*) from became group by company, type;
  else
    insert into record_tally (company, type, count) select company, type, -count(*) from was group by company, type;
  end if;
  return null;
end $$;
--> statement-breakpoint
create trigger record_counted after insert on record referencing new table as became for each statement execute function records_counted();
--> statement-breakpoint
create trigger record_discounted after delete on record referencing old table as was for each statement execute function records_counted();
--> statement-breakpoint
create index "document_class" on "document" ("acl_id") where unfiled_at is null;
