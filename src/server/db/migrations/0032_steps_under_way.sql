-- Steps of a move plan that are under way, as ranges of them: marking each step wrote it once more.
create table "steps_under_way" (
  "plan_id" uuid not null references "move_plan"("id") on delete cascade,
  "wave" integer not null,
  "first" integer not null,
  "last" integer not null,
  "is_back" boolean not null,
  primary key ("plan_id", "wave", "first")
);
--> statement-breakpoint
insert into "steps_under_way" ("plan_id", "wave", "first", "last", "is_back")
  select plan_id, wave, min(position), max(position), bool_or(coalesce(why, '') = 'back') from move_step where state = 'moving' group by plan_id, wave;
--> statement-breakpoint
update "move_step" set state = case when why = 'back' then 'moved' else 'planned' end, why = null where state = 'moving';
--> statement-breakpoint
update "move_step" set why = null where why = 'back';
--> statement-breakpoint
alter table "move_step" drop constraint "move_step_state_known";
--> statement-breakpoint
alter table "move_step" add constraint "move_step_state_known" check (state in ('planned','moved','failed','clash'));
