-- Which other record types along the chain see a clip, and what somebody noted on it.
alter table clip add column reach text[] not null default '{}';
alter table clip add column note text;
create index clip_reaching on clip (record_id) where reach <> '{}';
-- Maintained: the document is clipped to something beneath the record, and that clip reaches records of this type.
alter table beneath_document add column reaches boolean not null default false;
create index beneath_document_reaches on beneath_document (record_id, document_id) where reaches;
