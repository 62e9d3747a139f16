-- A record has one folder; those it had by older rules are folders within its papers.
UPDATE "folder" f SET kind = 'within' WHERE EXISTS (SELECT 1 FROM "folder" g WHERE g.record_id = f.record_id AND g.id > f.id);--> statement-breakpoint
INSERT INTO "folder" (record_id, connection, path, path_folded, kind, rule_stamp)
  SELECT DISTINCT ON (p.connection, p.folder_folded) c.record_id, p.connection, regexp_replace(p.path, '/?[^/]*$', ''), p.folder_folded, 'within', ''
  FROM "placement" p JOIN "clip" c ON c.document_id = p.document_id AND c.position = 0 WHERE p.folder_id IS NULL
  ON CONFLICT DO NOTHING;--> statement-breakpoint
UPDATE "placement" p SET folder_id = f.id FROM "folder" f WHERE p.folder_id IS NULL AND f.connection = p.connection AND f.path_folded = p.folder_folded;--> statement-breakpoint
UPDATE "placement" SET name = regexp_replace(path, '^.*/', ''), taken_back_by = CASE WHEN state = 'moving' THEN why END;--> statement-breakpoint
ALTER TABLE "placement" DROP CONSTRAINT "placement_connection_connection_key_fk";--> statement-breakpoint
DROP INDEX "placement_path_is_one_documents";--> statement-breakpoint
ALTER TABLE "placement" ALTER COLUMN "folder_id" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "placement" ALTER COLUMN "name" SET NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX "record_has_one_folder" ON "folder" USING btree ("record_id") WHERE kind = 'record';--> statement-breakpoint
CREATE UNIQUE INDEX "placement_path_is_one_documents" ON "placement" USING btree ("folder_id","name_folded");--> statement-breakpoint
ALTER TABLE "placement" DROP COLUMN "connection";--> statement-breakpoint
ALTER TABLE "placement" DROP COLUMN "path";--> statement-breakpoint
ALTER TABLE "placement" DROP COLUMN "folder_folded";--> statement-breakpoint
CREATE VIEW "place" AS SELECT p.document_id, p.folder_id, p.name, p.name_folded,
  CASE WHEN f.is_moving AND p.state = 'placed' THEN 'moving' ELSE p.state END AS state,
  p.sha256, p.checked_at, p.why, p.taken_back_by, f.connection, f.path AS folder_path,
  CASE WHEN f.path = '' THEN p.name ELSE f.path || '/' || p.name END AS path
  FROM "placement" p JOIN "folder" f ON f.id = p.folder_id;
