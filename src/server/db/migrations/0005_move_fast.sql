drop index move_step_next;
--> statement-breakpoint
create index move_step_wave on move_step (plan_id, wave, position);
--> statement-breakpoint
-- Each step's state changes twice and each folder's path once while a plan is carried out: with room on the page that costs no index anything.
alter table move_step set (fillfactor = 50);
--> statement-breakpoint
alter table folder set (fillfactor = 70);
