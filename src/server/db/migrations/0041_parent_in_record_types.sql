-- A record type says which types its records may have as their parent; this list was called "above".
update "record_type" set "definition" = ("definition" - 'above') || jsonb_build_object('parent', "definition" -> 'above') where "definition" ? 'above';
