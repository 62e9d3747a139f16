-- Folders that are on their way to another path, in a small table of their own: marking the row itself wrote it, and what indexes it, twice for each move.
create table folder_under_way (folder_id bigint primary key);
--> statement-breakpoint
insert into folder_under_way select id from folder where is_moving;
--> statement-breakpoint
create or replace view place as select p.document_id, p.folder_id, p.name, p.name_folded,
  case when p.state = 'placed' and exists (select 1 from folder_under_way w where w.folder_id = p.folder_id) then 'moving' else p.state end as state,
  p.sha256, p.checked_at, p.why, p.taken_back_by, f.connection, f.path as folder_path,
  case when f.path = '' then p.name else f.path || '/' || p.name end as path
  from placement p join folder f on f.id = p.folder_id;
--> statement-breakpoint
alter table folder drop column is_moving;
