-- Which steps of a move plan were carried out, as ranges on the plan: a row for each step was written again for saying so.
alter table "move_plan" add column "moved" int4multirange not null default '{}';
--> statement-breakpoint
update "move_plan" p set moved = s.moved from (select plan_id, range_agg(int4range(position, position + 1)) as moved from "move_step" where state = 'moved' group by plan_id) s where s.plan_id = p.id;
--> statement-breakpoint
update "move_step" set state = 'planned' where state = 'moved';
--> statement-breakpoint
alter table "move_step" drop constraint "move_step_state_known";
--> statement-breakpoint
alter table "move_step" add constraint "move_step_state_known" check (state in ('planned','failed','clash'));
