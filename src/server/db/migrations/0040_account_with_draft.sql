-- A document makes one record of a type: the account that its record belongs to may be made from it, too.
drop index draft_of_arrival;
--> statement-breakpoint
create unique index draft_of_arrival on draft (arrival_id, type) where state <> 'withdrawn';
