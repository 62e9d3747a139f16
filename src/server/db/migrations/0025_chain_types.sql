-- What kinds of records a chain holds is asked for many records at a time: the index answers it by itself.
create index record_chain_types on record (chain_id, type, id) where chain_id is not null;
drop index record_chain;
