-- One bit per access class: whether the bits cover the class. Classes newer than the bits are not covered.
CREATE FUNCTION covers(bits bytea, acl integer) RETURNS boolean
LANGUAGE sql IMMUTABLE PARALLEL SAFE
AS $$ SELECT CASE WHEN acl >= octet_length(bits) * 8 THEN false ELSE get_bit(bits, acl) = 1 END $$;
--> statement-breakpoint
-- Body and tsvector stand in one row so that both are stored out of line and the heap stays small.
CREATE TABLE search_document (
  document_id bigint NOT NULL,
  acl_id integer NOT NULL,
  company text NOT NULL,
  document_type text NOT NULL,
  record_types text[] NOT NULL,
  document_date date,
  title text NOT NULL,
  body text NOT NULL,
  tsv tsvector NOT NULL,
  PRIMARY KEY (document_id)
) PARTITION BY RANGE (document_id);
--> statement-breakpoint
-- Makes the partition for a document id when it is missing: 65,536 documents each. Safe when several do it at once.
CREATE FUNCTION ensure_search_partition(for_id bigint) RETURNS void
LANGUAGE plpgsql AS $$
DECLARE
  slot bigint := for_id / 65536;
  child text := 'search_document_' || slot;
BEGIN
  IF to_regclass(child) IS NOT NULL THEN RETURN; END IF;
  PERFORM pg_advisory_xact_lock(7301, slot::integer);
  IF to_regclass(child) IS NOT NULL THEN RETURN; END IF;
  -- Made apart and attached when it is whole: attaching does not stop those who read and write the others.
  EXECUTE format('CREATE TABLE %I (LIKE search_document INCLUDING DEFAULTS INCLUDING CONSTRAINTS)', child);
  EXECUTE format('ALTER TABLE %I SET (toast_tuple_target = 128)', child);
  EXECUTE format('CREATE INDEX ON %I USING gin (tsv)', child);
  EXECUTE format('ALTER TABLE search_document ATTACH PARTITION %I FOR VALUES FROM (%s) TO (%s)', child, slot * 65536, (slot + 1) * 65536);
EXCEPTION WHEN duplicate_table THEN
  -- Whoever held the lock before made it; the look at the catalogue above may be from before that.
  NULL;
END $$;
--> statement-breakpoint
-- Lines of the timeline are never edited or removed; only their seal is set, once.
CREATE FUNCTION timeline_is_append_only() RETURNS trigger
LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'UPDATE' AND OLD.seal_id IS NULL AND NEW.seal_id IS NOT NULL
     AND (OLD.id, OLD.at, OLD.who, OLD.verb, OLD.details) IS NOT DISTINCT FROM (NEW.id, NEW.at, NEW.who, NEW.verb, NEW.details)
     AND (OLD.company, OLD.document_id, OLD.record_id, OLD.arrival_id) IS NOT DISTINCT FROM (NEW.company, NEW.document_id, NEW.record_id, NEW.arrival_id) THEN
    RETURN NEW;
  END IF;
  RAISE EXCEPTION 'the timeline is append-only' USING ERRCODE = 'restrict_violation';
END $$;
--> statement-breakpoint
CREATE TRIGGER timeline_is_append_only BEFORE UPDATE OR DELETE ON timeline_line
FOR EACH ROW EXECUTE FUNCTION timeline_is_append_only();
--> statement-breakpoint
-- The register keeps every arrival for good.
CREATE FUNCTION register_keeps_all() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN RAISE EXCEPTION 'register lines are kept for good' USING ERRCODE = 'restrict_violation'; END $$;
--> statement-breakpoint
CREATE TRIGGER register_keeps_all BEFORE DELETE ON arrival FOR EACH ROW EXECUTE FUNCTION register_keeps_all();
--> statement-breakpoint
-- A version's file is immutable.
CREATE FUNCTION version_is_immutable() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN RAISE EXCEPTION 'versions are immutable' USING ERRCODE = 'restrict_violation'; END $$;
--> statement-breakpoint
CREATE TRIGGER version_is_immutable BEFORE UPDATE OR DELETE ON document_version FOR EACH ROW EXECUTE FUNCTION version_is_immutable();
