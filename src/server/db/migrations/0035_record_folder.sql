-- Which folders are a record's is said beside them: a folder that moves is then entered anew in two indexes, not in four.
create table "record_folder" (
  "folder_id" bigint primary key references "folder"("id") on delete cascade,
  "record_id" bigint not null references "record"("id"),
  "is_own" boolean not null
);
--> statement-breakpoint
insert into "record_folder" select id, record_id, kind = 'record' from "folder" where record_id is not null;
--> statement-breakpoint
drop index "record_has_one_folder";
--> statement-breakpoint
drop index "folder_record";
--> statement-breakpoint
create unique index "record_has_one_folder" on "record_folder" ("record_id") where is_own;
--> statement-breakpoint
create index "record_folder_record" on "record_folder" ("record_id", "folder_id");
--> statement-breakpoint
create function record_folder_follows() returns trigger language plpgsql as $$
begin
  if new.record_id is null then
    delete from record_folder where folder_id = new.id;
  else
    insert into record_folder (folder_id, record_id, is_own) values (new.id, new.record_id, new.kind = 'record')
      on conflict (folder_id) do update set record_id = excluded.record_id, is_own = excluded.is_own;
  end if;
  return null;
end $$;
--> statement-breakpoint
create trigger folder_entered after insert on folder for each row when (new.record_id is not null) execute function record_folder_follows();
--> statement-breakpoint
-- Not when only its path changes.
create trigger folder_given after update of record_id, kind on folder for each row
  when (old.record_id is distinct from new.record_id or old.kind is distinct from new.kind) execute function record_folder_follows();
--> statement-breakpoint
create view "own_folder" as select o.record_id, o.folder_id, f.connection, f.path, f.path_folded
  from record_folder o join folder f on f.id = o.folder_id where o.is_own;
--> statement-breakpoint
analyze "record_folder";
