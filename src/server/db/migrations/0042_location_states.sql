-- The states of a location are called as the HTTP API calls them: stored (was: placed) and outOfSync (was: adrift).
alter table "placement" drop constraint "placement_state_known";
--> statement-breakpoint
alter table "placement" drop constraint "placement_proven";
--> statement-breakpoint
update "placement" set state = case state when 'placed' then 'stored' else 'outOfSync' end where state in ('placed','adrift');
--> statement-breakpoint
alter table "placement" add constraint "placement_state_known" check (state in ('waiting','stored','moving','outOfSync','failed'));
--> statement-breakpoint
alter table "placement" add constraint "placement_proven" check (state <> 'stored' or (sha256 is not null and checked_at is not null));
--> statement-breakpoint
create or replace view place as select p.document_id, p.folder_id, p.name, p.name_folded,
  case when p.state = 'stored' and exists (select 1 from steps_under_way w where p.folder_id = any(w.folders)) then 'moving' else p.state end as state,
  p.sha256, p.checked_at, p.why, p.taken_back_by, f.connection, f.path as folder_path,
  case when f.path = '' then p.name else f.path || '/' || p.name end as path
  from placement p join folder f on f.id = p.folder_id;
