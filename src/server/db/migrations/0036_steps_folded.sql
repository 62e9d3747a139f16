-- How a folder's old and new path are folded stands on its step since the plan was drawn: thousands of paths came along each time a chunk was written down.
alter table move_step add column from_folded text;
--> statement-breakpoint
alter table move_step add column to_folded text;
