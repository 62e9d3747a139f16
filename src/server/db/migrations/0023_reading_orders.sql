-- Orders in which the papers of a record are read for a purpose (F8).
alter table section_template add column orders jsonb not null default '[]';
