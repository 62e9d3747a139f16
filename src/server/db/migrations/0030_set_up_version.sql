-- What set-up says is asked for with every page and changes once a month: a process keeps it, and asks only whether it is still the same.
create table "set_up_version" ("only" boolean primary key default true check ("only"), "version" bigint not null);
--> statement-breakpoint
insert into "set_up_version" ("version") values (1);
--> statement-breakpoint
create function set_up_changed() returns trigger language plpgsql as $$
begin
  update set_up_version set version = version + 1;
  return null;
end $$;
--> statement-breakpoint
create trigger record_type_changed after insert or update or delete on record_type for each statement execute function set_up_changed();
--> statement-breakpoint
create trigger document_type_changed after insert or update or delete on document_type for each statement execute function set_up_changed();
--> statement-breakpoint
create trigger checklist_changed after insert or update or delete on checklist for each statement execute function set_up_changed();
--> statement-breakpoint
create trigger section_template_changed after insert or update or delete on section_template for each statement execute function set_up_changed();
--> statement-breakpoint
create trigger folder_rule_changed after insert or update or delete on folder_rule for each statement execute function set_up_changed();
