alter table queue add column codes_by text references "user"(id) on delete set null;
--> statement-breakpoint
alter table queue add column leaves_out_blanks boolean not null default false;
--> statement-breakpoint
alter table queue add column limits jsonb;
--> statement-breakpoint
alter table queue drop constraint queue_mail_keeps_known;
--> statement-breakpoint
alter table queue add constraint queue_mail_keeps_known check (mail_keeps in ('messageAndParts','partsOnly','ask'));
--> statement-breakpoint
-- Who works on an arrival, and until when nobody else files it; and what was said when it was handed over.
alter table arrival add column claimed_by text references "user"(id) on delete set null, add column claimed_until timestamp(3) with time zone;
--> statement-breakpoint
alter table arrival add column handed_to text references "user"(id) on delete set null, add column handed_by text, add column handed_word text, add column handed_at timestamp(3) with time zone;
--> statement-breakpoint
create index arrival_handed_to on arrival (handed_to) where handed_to is not null;
