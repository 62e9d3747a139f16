-- What papers records of a type ought to have (F3).
create table checklist (
  record_type text primary key references record_type(key),
  version integer not null,
  rules jsonb not null,
  -- Bits that were ever given to an item of the type.
  used_bits integer[] not null default '{}',
  looks_along_chain boolean not null default false,
  changed_at timestamp(3) with time zone not null,
  changed_by text not null
);
--> statement-breakpoint
-- An item added by hand on one record.
create table own_item (
  record_id bigint not null references record(id),
  place smallint not null check (place between 0 and 11),
  label text not null,
  document_types text[] not null,
  due_on date,
  made_at timestamp(3) with time zone not null,
  made_by text not null,
  primary key (record_id, place)
);
--> statement-breakpoint
-- What people said about an item of one record: accepted a paper, tied one to it or took one from it, waived it.
create table item_decision (
  id bigserial primary key,
  record_id bigint not null references record(id),
  item text not null,
  kind text not null check (kind in ('accepted', 'counts', 'countsNot', 'waived')),
  document_id bigint references document(id),
  reason text,
  at timestamp(3) with time zone not null,
  by text not null,
  check ((kind = 'waived') = (document_id is null))
);
--> statement-breakpoint
create unique index item_decision_once on item_decision (record_id, item, kind, coalesce(document_id, 0));
--> statement-breakpoint
-- Who answers for a record; one without has that of the account above.
alter table record add column responsible_id text references "user"(id);
--> statement-breakpoint
-- Maintained: how a record's checklist stands. One row for each record that any item applies to. Sets of bits, see core/checklists/completeness.
create table completeness (
  record_id bigint primary key references record(id),
  company text not null,
  type text not null,
  above_id bigint,
  responsible_id text,
  applies bigint not null,
  missing bigint not null,
  in_hand bigint not null,
  lapsed bigint not null,
  waived bigint not null,
  due_on date,
  lapses_on date,
  changes_on date
);
--> statement-breakpoint
create index completeness_missing on completeness (type, company, due_on, record_id) where missing <> 0;
--> statement-breakpoint
create index completeness_in_hand on completeness (type, company, due_on, record_id) where in_hand <> 0;
--> statement-breakpoint
create index completeness_lapses on completeness (type, company, lapses_on, record_id) where lapses_on is not null;
--> statement-breakpoint
create index completeness_changes on completeness (changes_on) where changes_on is not null;
--> statement-breakpoint
create index completeness_responsible on completeness (responsible_id, due_on) where responsible_id is not null and (missing <> 0 or in_hand <> 0);
--> statement-breakpoint
create index completeness_above on completeness (above_id, due_on) where missing <> 0 or in_hand <> 0;
--> statement-breakpoint
-- Records whose checklist has to be looked at anew. Marked by triggers in the transaction of whatever changed, worked off by the worker. Marks are only
-- ever added: nobody waits for anybody, and one that is made while others are worked off stays for the next time.
create table completeness_due (
  id bigserial primary key,
  record_id bigint not null
);
--> statement-breakpoint
create index completeness_due_record on completeness_due (record_id);
--> statement-breakpoint
create function mark_completeness(ids bigint[]) returns void language plpgsql as $$
begin
  insert into completeness_due (record_id)
    select distinct r.id from record r where r.id = any(ids)
      and (exists (select 1 from checklist k where k.record_type = r.type) or exists (select 1 from own_item o where o.record_id = r.id)
        or exists (select 1 from completeness c where c.record_id = r.id))
    union
    select distinct beside.id from record r join record beside on beside.chain_id = r.chain_id
      join checklist k on k.record_type = beside.type and k.looks_along_chain where r.id = any(ids) and r.chain_id is not null;
  if found then perform pg_notify('completeness', ''); end if;
end $$;
--> statement-breakpoint
create function clips_changed() returns trigger language plpgsql as $$
begin
  perform mark_completeness(array(select distinct record_id from changed));
  return null;
end $$;
--> statement-breakpoint
create trigger clip_made after insert on clip referencing new table as changed for each statement execute function clips_changed();
--> statement-breakpoint
create trigger clip_gone after delete on clip referencing old table as changed for each statement execute function clips_changed();
--> statement-breakpoint
create trigger decision_made after insert on item_decision referencing new table as changed for each statement execute function clips_changed();
--> statement-breakpoint
create trigger decision_gone after delete on item_decision referencing old table as changed for each statement execute function clips_changed();
--> statement-breakpoint
create trigger own_item_made after insert on own_item referencing new table as changed for each statement execute function clips_changed();
--> statement-breakpoint
create trigger own_item_changed after update on own_item referencing new table as changed for each statement execute function clips_changed();
--> statement-breakpoint
create trigger own_item_gone after delete on own_item referencing old table as changed for each statement execute function clips_changed();
--> statement-breakpoint
create function documents_changed() returns trigger language plpgsql as $$
begin
  perform mark_completeness(array(select distinct c.record_id from was join became on became.id = was.id join clip c on c.document_id = was.id
    where was.document_type <> became.document_type or was.properties <> became.properties
      or was.document_date is distinct from became.document_date or was.unfiled_at is distinct from became.unfiled_at));
  return null;
end $$;
--> statement-breakpoint
create trigger document_changed after update on document referencing old table as was new table as became for each statement execute function documents_changed();
--> statement-breakpoint
create function records_made() returns trigger language plpgsql as $$
begin
  perform mark_completeness(array(select id from became));
  return null;
end $$;
--> statement-breakpoint
create trigger record_made after insert on record referencing new table as became for each statement execute function records_made();
--> statement-breakpoint
create function records_changed() returns trigger language plpgsql as $$
declare ids bigint[]; left_chains bigint[];
begin
  select array_agg(became.id), array_agg(was.chain_id) filter (where was.chain_id is distinct from became.chain_id) into ids, left_chains
    from was join became on became.id = was.id
    where was.fields <> became.fields or was.status is distinct from became.status or was.date is distinct from became.date or was.key <> became.key
      or was.title <> became.title or was.above_id is distinct from became.above_id or was.chain_id is distinct from became.chain_id
      or was.responsible_id is distinct from became.responsible_id;
  if ids is null then return null; end if;
  -- Those that stayed behind in a chain that was left see less of it now; those beneath have the same person answer for them.
  perform mark_completeness(ids || coalesce(array(select r.id from record r where r.chain_id = any(left_chains)), '{}')
    || coalesce(array(select r.id from was join became on became.id = was.id join record r on r.above_id = was.id
      where was.responsible_id is distinct from became.responsible_id), '{}'));
  return null;
end $$;
--> statement-breakpoint
create trigger record_changed after update on record referencing old table as was new table as became for each statement execute function records_changed();
--> statement-breakpoint
-- Somebody asked a person to see to what is missing.
create table reminder (
  id bigserial primary key,
  record_id bigint not null references record(id),
  person_id text not null references "user"(id),
  by text not null references "user"(id),
  note text not null default '',
  at timestamp(3) with time zone not null,
  -- When that person said they had seen it.
  seen_at timestamp(3) with time zone
);
--> statement-breakpoint
create unique index reminder_open on reminder (record_id, person_id) where seen_at is null;
--> statement-breakpoint
create index reminder_person on reminder (person_id, at desc) where seen_at is null;
