-- Which lines a seal holds is said by the seal, as ranges: a line that was written again for saying it took as long as writing it first.
alter table "timeline_seal" add column "lines" int8multirange;
--> statement-breakpoint
alter table "timeline_seal" add column "below" bigint;
--> statement-breakpoint
update "timeline_seal" s set lines = l.lines from (select seal_id, range_agg(int8range(id, id + 1)) as lines from "timeline_line" where seal_id is not null group by seal_id) l where l.seal_id = s.id;
--> statement-breakpoint
update "timeline_seal" set lines = '{}' where lines is null;
--> statement-breakpoint
update "timeline_seal" s set below = b.below from (select id, coalesce(max(upper(lines)) over (order by id), 0) as below from "timeline_seal") b where b.id = s.id;
--> statement-breakpoint
alter table "timeline_seal" alter column "lines" set not null;
--> statement-breakpoint
alter table "timeline_seal" alter column "below" set not null;
--> statement-breakpoint
create index "timeline_seal_made" on "timeline_seal" ("made_at");
--> statement-breakpoint
drop index "timeline_unsealed";
--> statement-breakpoint
drop index "timeline_line_seal";
--> statement-breakpoint
create or replace function timeline_is_append_only() returns trigger language plpgsql as $$
begin
  raise exception 'the timeline is append-only' using errcode = 'restrict_violation';
end $$;
--> statement-breakpoint
alter table "timeline_line" drop column "seal_id";
