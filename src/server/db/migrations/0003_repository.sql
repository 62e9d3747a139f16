CREATE TABLE "finding" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "finding_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"connection" text NOT NULL,
	"path" text NOT NULL,
	"path_folded" text NOT NULL,
	"kind" text NOT NULL,
	"folder_id" bigint,
	"record_id" bigint,
	"document_id" bigint,
	"seen_bytes" bigint,
	"seen_modified_ms" bigint,
	"seen_mark" text,
	"sha256" text,
	"state" text DEFAULT 'settling' NOT NULL,
	"decision" text,
	"decided_by" text,
	"why" text,
	"found_at" timestamp (3) with time zone NOT NULL,
	"changed_at" timestamp (3) with time zone NOT NULL,
	CONSTRAINT "finding_kind_known" CHECK ("finding"."kind" in ('new','changed','removed','folder')),
	CONSTRAINT "finding_state_known" CHECK ("finding"."state" in ('settling','open','decided'))
);
--> statement-breakpoint
CREATE TABLE "move_plan" (
	"id" uuid PRIMARY KEY NOT NULL,
	"cause" text NOT NULL,
	"label" text NOT NULL,
	"about" jsonb NOT NULL,
	"state" text DEFAULT 'drawing' NOT NULL,
	"why" text,
	"steps" integer DEFAULT 0 NOT NULL,
	"done" integer DEFAULT 0 NOT NULL,
	"failed" integer DEFAULT 0 NOT NULL,
	"clashes" integer DEFAULT 0 NOT NULL,
	"documents" integer DEFAULT 0 NOT NULL,
	"folders" integer DEFAULT 0 NOT NULL,
	"looked" integer DEFAULT 0 NOT NULL,
	"made_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"made_by" text NOT NULL,
	"started_at" timestamp (3) with time zone,
	"ended_at" timestamp (3) with time zone,
	"undo_until" timestamp (3) with time zone,
	CONSTRAINT "move_plan_state_known" CHECK ("move_plan"."state" in ('drawing','drawn','running','stopped','done','undoing','undone','dropped'))
);
--> statement-breakpoint
CREATE TABLE "move_step" (
	"plan_id" uuid NOT NULL,
	"position" integer NOT NULL,
	"wave" integer NOT NULL,
	"kind" text NOT NULL,
	"is_aside" boolean DEFAULT false NOT NULL,
	"record_id" bigint,
	"document_id" bigint,
	"folder_id" bigint,
	"from_connection" text NOT NULL,
	"from_path" text NOT NULL,
	"to_connection" text NOT NULL,
	"to_path" text NOT NULL,
	"shown_from" text NOT NULL,
	"documents" integer DEFAULT 0 NOT NULL,
	"found_by" text DEFAULT 'name' NOT NULL,
	"state" text DEFAULT 'planned' NOT NULL,
	"why" text,
	CONSTRAINT "move_step_plan_id_position_pk" PRIMARY KEY("plan_id","position"),
	CONSTRAINT "move_step_state_known" CHECK ("move_step"."state" in ('planned','moving','moved','failed','clash'))
);
--> statement-breakpoint
CREATE TABLE "pointer" (
	"document_id" bigint NOT NULL,
	"folder_id" bigint NOT NULL,
	"name" text NOT NULL,
	"name_folded" text NOT NULL,
	"kind" text NOT NULL,
	"state" text DEFAULT 'wanted' NOT NULL,
	"why" text,
	CONSTRAINT "pointer_document_id_folder_id_pk" PRIMARY KEY("document_id","folder_id"),
	CONSTRAINT "pointer_kind_known" CHECK ("pointer"."kind" in ('link','pointer')),
	CONSTRAINT "pointer_state_known" CHECK ("pointer"."state" in ('wanted','there','unwanted','failed'))
);
--> statement-breakpoint
ALTER TABLE "folder" ALTER COLUMN "record_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "content" ADD COLUMN "is_landed" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "document" ADD COLUMN "type_said" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "connection" ADD COLUMN "settings" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "connection" ADD COLUMN "secret" text;--> statement-breakpoint
ALTER TABLE "connection" ADD COLUMN "options" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "connection" ADD COLUMN "set_up" jsonb;--> statement-breakpoint
ALTER TABLE "connection" ADD COLUMN "prepared_at" timestamp (3) with time zone;--> statement-breakpoint
ALTER TABLE "connection" ADD COLUMN "scanned_at" timestamp (3) with time zone;--> statement-breakpoint
ALTER TABLE "connection" ADD COLUMN "scanned" jsonb;--> statement-breakpoint
ALTER TABLE "connection" ADD COLUMN "changed_at" timestamp (3) with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "folder" ADD COLUMN "kind" text DEFAULT 'record' NOT NULL;--> statement-breakpoint
ALTER TABLE "folder" ADD COLUMN "is_moving" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "folder" ADD COLUMN "company" text;--> statement-breakpoint
ALTER TABLE "folder" ADD COLUMN "is_confidential" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "folder" ADD COLUMN "digest" text;--> statement-breakpoint
ALTER TABLE "folder" ADD COLUMN "checked_at" timestamp (3) with time zone;--> statement-breakpoint
ALTER TABLE "placement" ADD COLUMN "name" text;--> statement-breakpoint
ALTER TABLE "placement" ADD COLUMN "taken_back_by" text;--> statement-breakpoint
ALTER TABLE "placement" ADD COLUMN "seen_bytes" bigint;--> statement-breakpoint
ALTER TABLE "placement" ADD COLUMN "seen_modified_ms" bigint;--> statement-breakpoint
ALTER TABLE "placement" ADD COLUMN "seen_mark" text;--> statement-breakpoint
ALTER TABLE "finding" ADD CONSTRAINT "finding_connection_connection_key_fk" FOREIGN KEY ("connection") REFERENCES "public"."connection"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "finding" ADD CONSTRAINT "finding_folder_id_folder_id_fk" FOREIGN KEY ("folder_id") REFERENCES "public"."folder"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "finding" ADD CONSTRAINT "finding_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "finding" ADD CONSTRAINT "finding_document_id_document_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."document"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "move_step" ADD CONSTRAINT "move_step_plan_id_move_plan_id_fk" FOREIGN KEY ("plan_id") REFERENCES "public"."move_plan"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pointer" ADD CONSTRAINT "pointer_document_id_document_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."document"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pointer" ADD CONSTRAINT "pointer_folder_id_folder_id_fk" FOREIGN KEY ("folder_id") REFERENCES "public"."folder"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "finding_is_one" ON "finding" USING btree ("connection","path_folded","kind");--> statement-breakpoint
CREATE INDEX "finding_state" ON "finding" USING btree ("state","found_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "finding_document" ON "finding" USING btree ("document_id");--> statement-breakpoint
CREATE INDEX "move_plan_made" ON "move_plan" USING btree ("made_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "move_step_next" ON "move_step" USING btree ("plan_id","state","wave","position");--> statement-breakpoint
CREATE INDEX "pointer_folder" ON "pointer" USING btree ("folder_id");--> statement-breakpoint
CREATE INDEX "pointer_state" ON "pointer" USING btree ("state");--> statement-breakpoint
CREATE INDEX "placement_checked" ON "placement" USING btree ("checked_at");--> statement-breakpoint
CREATE INDEX "placement_sha256" ON "placement" USING btree ("sha256");--> statement-breakpoint
ALTER TABLE "folder" ADD CONSTRAINT "folder_kind_known" CHECK ("folder"."kind" in ('record','within','shelf'));--> statement-breakpoint
ALTER TABLE "folder" ADD CONSTRAINT "folder_of_record" CHECK (("folder"."kind" = 'shelf') = ("folder"."record_id" is null));