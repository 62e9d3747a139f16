-- Most lines are looked for before they have a seal: an index that knows them without one is written for nothing.
drop index timeline_line_seal;
--> statement-breakpoint
create index timeline_line_seal on timeline_line (seal_id) where seal_id is not null;
