-- What is in a pack: it is only given out while whoever asked for it may see all of it. Null: made before this was kept, and not given out any more.
alter table pack add column documents bigint[];
