-- When a draft was first begun to be sent: until then it can be taken back as if it had never been made.
alter table draft add column begun_at timestamptz;
--> statement-breakpoint
update draft set begun_at = made_at where state <> 'sending' or attempts > 0;
