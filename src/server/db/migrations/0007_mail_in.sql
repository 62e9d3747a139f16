alter table queue add column mail_keeps text not null default 'messageAndParts';
--> statement-breakpoint
alter table queue add column mail_senders text[] not null default '{}';
--> statement-breakpoint
alter table queue add constraint queue_mail_keeps_known check (mail_keeps in ('messageAndParts','partsOnly'));
--> statement-breakpoint
alter table arrival add column mail jsonb;
