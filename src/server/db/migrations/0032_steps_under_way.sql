-- Steps of a move plan that are under way, as ranges of them, with the folders that they move: marking each step, and each folder in a table of its own, wrote a row for it.
create table "steps_under_way" (
  "plan_id" uuid not null references "move_plan"("id") on delete cascade,
  "wave" integer not null,
  "first" integer not null,
  "last" integer not null,
  "is_back" boolean not null,
  "folders" bigint[] not null,
  primary key ("plan_id", "wave", "first")
);
--> statement-breakpoint
insert into "steps_under_way" ("plan_id", "wave", "first", "last", "is_back", "folders")
  select plan_id, wave, min(position), max(position), bool_or(coalesce(why, '') = 'back'), coalesce(array_agg(folder_id) filter (where kind = 'folder'), '{}') from move_step where state = 'moving' group by plan_id, wave;
--> statement-breakpoint
update "move_step" set state = case when why = 'back' then 'moved' else 'planned' end, why = null where state = 'moving';
--> statement-breakpoint
update "move_step" set why = null where why = 'back';
--> statement-breakpoint
alter table "move_step" drop constraint "move_step_state_known";
--> statement-breakpoint
alter table "move_step" add constraint "move_step_state_known" check (state in ('planned','moved','failed','clash'));
--> statement-breakpoint
create or replace view place as select p.document_id, p.folder_id, p.name, p.name_folded,
  case when p.state = 'placed' and exists (select 1 from steps_under_way w where p.folder_id = any(w.folders)) then 'moving' else p.state end as state,
  p.sha256, p.checked_at, p.why, p.taken_back_by, f.connection, f.path as folder_path,
  case when f.path = '' then p.name else f.path || '/' || p.name end as path
  from placement p join folder f on f.id = p.folder_id;
--> statement-breakpoint
drop table folder_under_way;
