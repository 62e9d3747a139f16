-- Lines of orders, receipts and invoices, as the business system tells them; papers are laid beside them.
alter table record add column lines jsonb;
--> statement-breakpoint
-- Lines of goods and invoices of a statement that were read off an arrival.
alter table arrival_reading add column rows jsonb;
