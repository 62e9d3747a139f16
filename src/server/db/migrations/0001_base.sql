CREATE TABLE "access_class" (
	"id" integer PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "access_class_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 2147483647 START WITH 1 CACHE 1),
	"company" text NOT NULL,
	"document_type" text NOT NULL,
	"confidential" boolean NOT NULL,
	"record_types" text[] DEFAULT '{}'::text[] NOT NULL
);
--> statement-breakpoint
CREATE TABLE "arrival" (
	"id" uuid PRIMARY KEY NOT NULL,
	"number" bigint GENERATED ALWAYS AS IDENTITY (sequence name "arrival_number_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"parent_id" uuid,
	"part" integer,
	"company" text,
	"queue" text NOT NULL,
	"source" text NOT NULL,
	"sender" text,
	"note" text,
	"file_name" text NOT NULL,
	"sha256" text NOT NULL,
	"size_bytes" bigint NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"problem" jsonb,
	"record_id" bigint,
	"document_type" text,
	"received_at" timestamp (3) with time zone NOT NULL,
	"received_by" text,
	"ready_at" timestamp (3) with time zone,
	"ended_at" timestamp (3) with time zone,
	"ended_by" text,
	"end_reason" text,
	"document_id" bigint,
	"aside" boolean DEFAULT false NOT NULL,
	CONSTRAINT "arrival_state_known" CHECK ("arrival"."state" in ('waiting','reading','ready','failed','filed','setAside','split','joined'))
);
--> statement-breakpoint
CREATE TABLE "queue" (
	"key" text PRIMARY KEY NOT NULL,
	"label" text NOT NULL,
	"order" integer NOT NULL,
	"default_document_type" text
);
--> statement-breakpoint
CREATE TABLE "queue_member" (
	"queue" text NOT NULL,
	"person_id" text NOT NULL,
	CONSTRAINT "queue_member_queue_person_id_pk" PRIMARY KEY("queue","person_id")
);
--> statement-breakpoint
CREATE TABLE "beneath_document" (
	"record_id" bigint NOT NULL,
	"document_id" bigint NOT NULL,
	"acl_id" integer NOT NULL,
	CONSTRAINT "beneath_document_record_id_document_id_pk" PRIMARY KEY("record_id","document_id")
);
--> statement-breakpoint
CREATE TABLE "clip" (
	"document_id" bigint NOT NULL,
	"record_id" bigint NOT NULL,
	"position" integer NOT NULL,
	"section" text,
	"made_at" timestamp (3) with time zone NOT NULL,
	"made_by" text NOT NULL,
	CONSTRAINT "clip_document_id_record_id_pk" PRIMARY KEY("document_id","record_id")
);
--> statement-breakpoint
CREATE TABLE "content" (
	"sha256" text PRIMARY KEY NOT NULL,
	"size_bytes" bigint NOT NULL,
	"kind" text,
	"media_type" text,
	"state" text DEFAULT 'unread' NOT NULL,
	"problem" jsonb,
	"pages" integer,
	"body" text,
	"outline" jsonb,
	"read_at" timestamp (3) with time zone,
	CONSTRAINT "content_sha256_is_hex" CHECK ("content"."sha256" ~ '^[0-9a-f]{64}$'),
	CONSTRAINT "content_state" CHECK ("content"."state" in ('unread','read','failed'))
);
--> statement-breakpoint
CREATE TABLE "content_page" (
	"sha256" text NOT NULL,
	"number" integer NOT NULL,
	"width_points" double precision NOT NULL,
	"height_points" double precision NOT NULL,
	"words" jsonb NOT NULL,
	CONSTRAINT "content_page_sha256_number_pk" PRIMARY KEY("sha256","number")
);
--> statement-breakpoint
CREATE TABLE "document" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"code" text NOT NULL,
	"company" text NOT NULL,
	"document_type" text NOT NULL,
	"title" text NOT NULL,
	"properties" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"confidential" boolean DEFAULT false NOT NULL,
	"acl_id" integer NOT NULL,
	"lifecycle" text DEFAULT 'released' NOT NULL,
	"current_version" integer DEFAULT 1 NOT NULL,
	"document_date" date,
	"filed_at" timestamp (3) with time zone NOT NULL,
	"filed_by" text NOT NULL,
	"changed_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"unfiled_at" timestamp (3) with time zone,
	CONSTRAINT "document_code_unique" UNIQUE("code"),
	CONSTRAINT "document_lifecycle" CHECK ("document"."lifecycle" in ('draft','under review','released','superseded','withdrawn'))
);
--> statement-breakpoint
CREATE TABLE "document_type" (
	"key" text PRIMARY KEY NOT NULL,
	"definition" jsonb NOT NULL,
	"order" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "document_version" (
	"document_id" bigint NOT NULL,
	"number" integer NOT NULL,
	"sha256" text NOT NULL,
	"file_name" text NOT NULL,
	"made_at" timestamp (3) with time zone NOT NULL,
	"made_by" text NOT NULL,
	CONSTRAINT "document_version_document_id_number_pk" PRIMARY KEY("document_id","number")
);
--> statement-breakpoint
CREATE TABLE "connection" (
	"key" text PRIMARY KEY NOT NULL,
	"label" text NOT NULL,
	"kind" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "folder" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "folder_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"record_id" bigint NOT NULL,
	"connection" text NOT NULL,
	"path" text NOT NULL,
	"path_folded" text NOT NULL,
	"rule_stamp" text NOT NULL,
	"made_at" timestamp (3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "folder_rule" (
	"record_type" text NOT NULL,
	"version" integer NOT NULL,
	"rule" jsonb NOT NULL,
	"made_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"made_by" text NOT NULL,
	CONSTRAINT "folder_rule_record_type_version_pk" PRIMARY KEY("record_type","version")
);
--> statement-breakpoint
CREATE TABLE "placement" (
	"document_id" bigint PRIMARY KEY NOT NULL,
	"connection" text NOT NULL,
	"folder_id" bigint,
	"path" text NOT NULL,
	"folder_folded" text NOT NULL,
	"name_folded" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"sha256" text,
	"checked_at" timestamp (3) with time zone,
	"why" text,
	CONSTRAINT "placement_state_known" CHECK ("placement"."state" in ('waiting','placed','moving','adrift','failed')),
	CONSTRAINT "placement_proven" CHECK ("placement"."state" <> 'placed' or ("placement"."sha256" is not null and "placement"."checked_at" is not null))
);
--> statement-breakpoint
CREATE TABLE "heartbeat" (
	"process" text PRIMARY KEY NOT NULL,
	"at" timestamp (3) with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "idempotency" (
	"person_id" text NOT NULL,
	"key" text NOT NULL,
	"fingerprint" text NOT NULL,
	"status" integer,
	"answer" jsonb,
	"made_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "idempotency_person_id_key_pk" PRIMARY KEY("person_id","key")
);
--> statement-breakpoint
CREATE TABLE "job_run" (
	"id" uuid PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"label" text NOT NULL,
	"person_id" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"done" integer DEFAULT 0 NOT NULL,
	"total" integer,
	"failed" integer DEFAULT 0 NOT NULL,
	"failures" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"input" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"made_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp (3) with time zone
);
--> statement-breakpoint
CREATE TABLE "account" (
	"id" text PRIMARY KEY NOT NULL,
	"account_id" text NOT NULL,
	"provider_id" text NOT NULL,
	"user_id" text NOT NULL,
	"access_token" text,
	"refresh_token" text,
	"id_token" text,
	"access_token_expires_at" timestamp (3) with time zone,
	"refresh_token_expires_at" timestamp (3) with time zone,
	"scope" text,
	"password" text,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp (3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "apikey" (
	"id" text PRIMARY KEY NOT NULL,
	"config_id" text DEFAULT 'default' NOT NULL,
	"name" text,
	"start" text,
	"reference_id" text NOT NULL,
	"prefix" text,
	"key" text NOT NULL,
	"refill_interval" integer,
	"refill_amount" integer,
	"last_refill_at" timestamp (3) with time zone,
	"enabled" boolean DEFAULT true,
	"rate_limit_enabled" boolean DEFAULT false,
	"rate_limit_time_window" integer,
	"rate_limit_max" integer,
	"request_count" integer DEFAULT 0,
	"remaining" integer,
	"last_request" timestamp (3) with time zone,
	"expires_at" timestamp (3) with time zone,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"permissions" text,
	"metadata" text
);
--> statement-breakpoint
CREATE TABLE "company" (
	"code" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "person_role" (
	"person_id" text NOT NULL,
	"role_key" text NOT NULL,
	"company" text NOT NULL,
	CONSTRAINT "person_role_person_id_role_key_company_pk" PRIMARY KEY("person_id","role_key","company")
);
--> statement-breakpoint
CREATE TABLE "preference" (
	"person_id" text PRIMARY KEY NOT NULL,
	"choices" jsonb DEFAULT '{}'::jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rate_limit" (
	"id" text PRIMARY KEY NOT NULL,
	"key" text NOT NULL,
	"count" integer NOT NULL,
	"last_request" bigint NOT NULL,
	CONSTRAINT "rate_limit_key_unique" UNIQUE("key")
);
--> statement-breakpoint
CREATE TABLE "role" (
	"key" text PRIMARY KEY NOT NULL,
	"label" text NOT NULL,
	"grants" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "session" (
	"id" text PRIMARY KEY NOT NULL,
	"expires_at" timestamp (3) with time zone NOT NULL,
	"token" text NOT NULL,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"ip_address" text,
	"user_agent" text,
	"user_id" text NOT NULL,
	CONSTRAINT "session_token_unique" UNIQUE("token")
);
--> statement-breakpoint
CREATE TABLE "user" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	"email_verified" boolean DEFAULT false NOT NULL,
	"image" text,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "user_email_unique" UNIQUE("email")
);
--> statement-breakpoint
CREATE TABLE "verification" (
	"id" text PRIMARY KEY NOT NULL,
	"identifier" text NOT NULL,
	"value" text NOT NULL,
	"expires_at" timestamp (3) with time zone NOT NULL,
	"created_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp (3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "record" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"company" text NOT NULL,
	"type" text NOT NULL,
	"key" text NOT NULL,
	"title" text NOT NULL,
	"status" text,
	"date" date,
	"amount" numeric(18, 2),
	"currency" char(3),
	"fields" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"above_id" bigint,
	"chain_id" bigint,
	"key_folded" text NOT NULL,
	"title_folded" text NOT NULL,
	"lookup_text" text NOT NULL,
	"document_count" integer DEFAULT 0 NOT NULL,
	"used_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"made_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp (3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "record_follow" (
	"record_id" bigint NOT NULL,
	"earlier_id" bigint NOT NULL,
	CONSTRAINT "record_follow_record_id_earlier_id_pk" PRIMARY KEY("record_id","earlier_id")
);
--> statement-breakpoint
CREATE TABLE "record_type" (
	"key" text PRIMARY KEY NOT NULL,
	"definition" jsonb NOT NULL,
	"order" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "title_word" (
	"word" text PRIMARY KEY NOT NULL
);
--> statement-breakpoint
CREATE TABLE "setting" (
	"key" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL,
	"changed_at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	"changed_by" text
);
--> statement-breakpoint
CREATE TABLE "timeline_line" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"at" timestamp (3) with time zone NOT NULL,
	"who" text NOT NULL,
	"company" text,
	"verb" text NOT NULL,
	"document_id" bigint,
	"record_id" bigint,
	"arrival_id" uuid,
	"details" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"seal_id" bigint
);
--> statement-breakpoint
CREATE TABLE "timeline_seal" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"line_count" integer NOT NULL,
	"hash" text NOT NULL,
	"made_at" timestamp (3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "arrival" ADD CONSTRAINT "arrival_parent_id_arrival_id_fk" FOREIGN KEY ("parent_id") REFERENCES "public"."arrival"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "arrival" ADD CONSTRAINT "arrival_company_company_code_fk" FOREIGN KEY ("company") REFERENCES "public"."company"("code") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "arrival" ADD CONSTRAINT "arrival_queue_queue_key_fk" FOREIGN KEY ("queue") REFERENCES "public"."queue"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "arrival" ADD CONSTRAINT "arrival_sha256_content_sha256_fk" FOREIGN KEY ("sha256") REFERENCES "public"."content"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "arrival" ADD CONSTRAINT "arrival_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "arrival" ADD CONSTRAINT "arrival_document_id_document_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."document"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "queue_member" ADD CONSTRAINT "queue_member_queue_queue_key_fk" FOREIGN KEY ("queue") REFERENCES "public"."queue"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "queue_member" ADD CONSTRAINT "queue_member_person_id_user_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."user"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "beneath_document" ADD CONSTRAINT "beneath_document_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "beneath_document" ADD CONSTRAINT "beneath_document_document_id_document_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."document"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clip" ADD CONSTRAINT "clip_document_id_document_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."document"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clip" ADD CONSTRAINT "clip_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "content_page" ADD CONSTRAINT "content_page_sha256_content_sha256_fk" FOREIGN KEY ("sha256") REFERENCES "public"."content"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document" ADD CONSTRAINT "document_company_company_code_fk" FOREIGN KEY ("company") REFERENCES "public"."company"("code") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document" ADD CONSTRAINT "document_document_type_document_type_key_fk" FOREIGN KEY ("document_type") REFERENCES "public"."document_type"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document" ADD CONSTRAINT "document_acl_id_access_class_id_fk" FOREIGN KEY ("acl_id") REFERENCES "public"."access_class"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document_version" ADD CONSTRAINT "document_version_document_id_document_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."document"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "document_version" ADD CONSTRAINT "document_version_sha256_content_sha256_fk" FOREIGN KEY ("sha256") REFERENCES "public"."content"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "folder" ADD CONSTRAINT "folder_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "folder" ADD CONSTRAINT "folder_connection_connection_key_fk" FOREIGN KEY ("connection") REFERENCES "public"."connection"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "folder_rule" ADD CONSTRAINT "folder_rule_record_type_record_type_key_fk" FOREIGN KEY ("record_type") REFERENCES "public"."record_type"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placement" ADD CONSTRAINT "placement_document_id_document_id_fk" FOREIGN KEY ("document_id") REFERENCES "public"."document"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placement" ADD CONSTRAINT "placement_connection_connection_key_fk" FOREIGN KEY ("connection") REFERENCES "public"."connection"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placement" ADD CONSTRAINT "placement_folder_id_folder_id_fk" FOREIGN KEY ("folder_id") REFERENCES "public"."folder"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "account" ADD CONSTRAINT "account_user_id_user_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."user"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "apikey" ADD CONSTRAINT "apikey_reference_id_user_id_fk" FOREIGN KEY ("reference_id") REFERENCES "public"."user"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "person_role" ADD CONSTRAINT "person_role_person_id_user_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."user"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "person_role" ADD CONSTRAINT "person_role_role_key_role_key_fk" FOREIGN KEY ("role_key") REFERENCES "public"."role"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "person_role" ADD CONSTRAINT "person_role_company_company_code_fk" FOREIGN KEY ("company") REFERENCES "public"."company"("code") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "preference" ADD CONSTRAINT "preference_person_id_user_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."user"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "session" ADD CONSTRAINT "session_user_id_user_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."user"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record" ADD CONSTRAINT "record_company_company_code_fk" FOREIGN KEY ("company") REFERENCES "public"."company"("code") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record" ADD CONSTRAINT "record_type_record_type_key_fk" FOREIGN KEY ("type") REFERENCES "public"."record_type"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record" ADD CONSTRAINT "record_above_id_record_id_fk" FOREIGN KEY ("above_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_follow" ADD CONSTRAINT "record_follow_record_id_record_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_follow" ADD CONSTRAINT "record_follow_earlier_id_record_id_fk" FOREIGN KEY ("earlier_id") REFERENCES "public"."record"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "access_class_is_interned" ON "access_class" USING btree ("company","document_type","confidential","record_types");--> statement-breakpoint
CREATE INDEX "arrival_open" ON "arrival" USING btree ("queue","received_at" DESC NULLS LAST) WHERE "arrival"."state" in ('waiting','reading','ready','failed');--> statement-breakpoint
CREATE INDEX "arrival_received" ON "arrival" USING btree ("received_at" DESC NULLS LAST,"number" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "arrival_content" ON "arrival" USING btree ("sha256");--> statement-breakpoint
CREATE INDEX "arrival_document" ON "arrival" USING btree ("document_id");--> statement-breakpoint
CREATE UNIQUE INDEX "arrival_part_once" ON "arrival" USING btree ("parent_id","part");--> statement-breakpoint
CREATE INDEX "queue_member_person" ON "queue_member" USING btree ("person_id");--> statement-breakpoint
CREATE INDEX "beneath_document_document" ON "beneath_document" USING btree ("document_id");--> statement-breakpoint
CREATE INDEX "clip_record" ON "clip" USING btree ("record_id","document_id");--> statement-breakpoint
CREATE INDEX "document_filed" ON "document" USING btree ("filed_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "document_filed_by" ON "document" USING btree ("filed_by","filed_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "document_version_content" ON "document_version" USING btree ("sha256");--> statement-breakpoint
CREATE UNIQUE INDEX "document_version_once" ON "document_version" USING btree ("document_id","sha256");--> statement-breakpoint
CREATE UNIQUE INDEX "folder_is_one_records" ON "folder" USING btree ("connection","path_folded");--> statement-breakpoint
CREATE INDEX "folder_record" ON "folder" USING btree ("record_id","id" DESC NULLS LAST);--> statement-breakpoint
CREATE UNIQUE INDEX "placement_path_is_one_documents" ON "placement" USING btree ("connection","folder_folded","name_folded");--> statement-breakpoint
CREATE INDEX "placement_state" ON "placement" USING btree ("state");--> statement-breakpoint
CREATE INDEX "job_run_person" ON "job_run" USING btree ("person_id","made_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "account_user" ON "account" USING btree ("user_id");--> statement-breakpoint
CREATE INDEX "apikey_key" ON "apikey" USING btree ("key");--> statement-breakpoint
CREATE INDEX "session_user" ON "session" USING btree ("user_id");--> statement-breakpoint
CREATE UNIQUE INDEX "record_key" ON "record" USING btree ("company","type","key");--> statement-breakpoint
CREATE INDEX "record_above" ON "record" USING btree ("above_id");--> statement-breakpoint
CREATE INDEX "record_chain" ON "record" USING btree ("chain_id");--> statement-breakpoint
CREATE INDEX "record_recent" ON "record" USING btree ("company","type","used_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "record_used" ON "record" USING btree ("used_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "record_key_folded" ON "record" USING btree ("key_folded" text_pattern_ops);--> statement-breakpoint
CREATE INDEX "record_title_folded" ON "record" USING btree ("title_folded" text_pattern_ops);--> statement-breakpoint
CREATE INDEX "record_lookup" ON "record" USING gin ("lookup_text" gin_trgm_ops);--> statement-breakpoint
CREATE INDEX "record_follow_earlier" ON "record_follow" USING btree ("earlier_id");--> statement-breakpoint
CREATE INDEX "title_word_trigram" ON "title_word" USING gin ("word" gin_trgm_ops);--> statement-breakpoint
CREATE INDEX "timeline_document" ON "timeline_line" USING btree ("document_id","id") WHERE "timeline_line"."document_id" is not null;--> statement-breakpoint
CREATE INDEX "timeline_record" ON "timeline_line" USING btree ("record_id","id") WHERE "timeline_line"."record_id" is not null;--> statement-breakpoint
CREATE INDEX "timeline_arrival" ON "timeline_line" USING btree ("arrival_id","id") WHERE "timeline_line"."arrival_id" is not null;--> statement-breakpoint
CREATE INDEX "timeline_unsealed" ON "timeline_line" USING btree ("id") WHERE "timeline_line"."seal_id" is null;--> statement-breakpoint
CREATE INDEX "timeline_line_seal" ON "timeline_line" USING btree ("seal_id");