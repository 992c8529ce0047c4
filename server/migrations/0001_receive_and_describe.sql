CREATE TABLE "camera_proxies" (
	"file_id" uuid PRIMARY KEY NOT NULL,
	"production_id" uuid NOT NULL,
	"clip_id" uuid
);
--> statement-breakpoint
CREATE TABLE "clip_copies" (
	"clip_id" uuid NOT NULL,
	"file_id" uuid NOT NULL,
	"is_verified" boolean NOT NULL,
	CONSTRAINT "clip_copies_clip_id_file_id_pk" PRIMARY KEY("clip_id","file_id")
);
--> statement-breakpoint
CREATE TABLE "clip_index" (
	"clip_id" uuid PRIMARY KEY NOT NULL,
	"production_id" uuid NOT NULL,
	"name" text NOT NULL,
	"reel" text NOT NULL,
	"described" jsonb NOT NULL,
	"file_name" text NOT NULL,
	"folder" text NOT NULL,
	"volume_id" uuid NOT NULL,
	"volume" text NOT NULL,
	"volume_kind" text NOT NULL,
	"kind" text NOT NULL,
	"codec" text NOT NULL,
	"container" text NOT NULL,
	"raster" text NOT NULL,
	"width" integer,
	"height" integer,
	"rate" double precision,
	"rate_numerator" integer,
	"rate_denominator" integer,
	"start" text NOT NULL,
	"frames" integer,
	"channels" integer NOT NULL,
	"layout" text NOT NULL,
	"tracks" text NOT NULL,
	"sample_rate" integer,
	"bit_depth" integer,
	"squeeze" text NOT NULL,
	"scan" text NOT NULL,
	"colour" text NOT NULL,
	"created" text NOT NULL,
	"originator" text NOT NULL,
	"files" integer NOT NULL,
	"size" bigint NOT NULL,
	"data_rate" bigint,
	"presence" text NOT NULL,
	"proxy" text NOT NULL,
	"proxies" jsonb NOT NULL,
	"proxy_raster" text NOT NULL,
	"uses" integer NOT NULL,
	"notice" text NOT NULL,
	"plays" integer,
	"words" text NOT NULL,
	"mark" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "clip_staleness" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "clip_staleness_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"production_id" uuid NOT NULL,
	"clip_id" uuid
);
--> statement-breakpoint
CREATE TABLE "decode_speeds" (
	"fingerprint" text PRIMARY KEY NOT NULL,
	"frames_per_second" double precision NOT NULL,
	"measured_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "edit_changes" (
	"edit_id" bigint NOT NULL,
	"clip_id" uuid NOT NULL,
	"field" text NOT NULL,
	"before" jsonb,
	"after" jsonb,
	CONSTRAINT "edit_changes_edit_id_clip_id_field_pk" PRIMARY KEY("edit_id","clip_id","field")
);
--> statement-breakpoint
CREATE TABLE "edits" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "edits_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"production_id" uuid NOT NULL,
	"title" text NOT NULL,
	"state" text DEFAULT 'done' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "manifests" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"volume_id" uuid NOT NULL,
	"path" text NOT NULL,
	"folder" text NOT NULL,
	"files" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "saved_searches" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"name" text NOT NULL,
	"condition" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "saved_views" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"name" text NOT NULL,
	"columns" jsonb NOT NULL,
	"sort" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "clips" ADD COLUMN "described" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "sequence" jsonb;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "waits_for_volume" uuid;--> statement-breakpoint
ALTER TABLE "productions" ADD COLUMN "custom_columns" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "productions" ADD COLUMN "log_mapping" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "notes" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "marker_id" uuid;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "signature" text;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "is_watched" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "camera_proxies" ADD CONSTRAINT "camera_proxies_file_id_files_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."files"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "camera_proxies" ADD CONSTRAINT "camera_proxies_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "camera_proxies" ADD CONSTRAINT "camera_proxies_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clip_copies" ADD CONSTRAINT "clip_copies_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clip_copies" ADD CONSTRAINT "clip_copies_file_id_files_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."files"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clip_index" ADD CONSTRAINT "clip_index_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clip_index" ADD CONSTRAINT "clip_index_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clip_staleness" ADD CONSTRAINT "clip_staleness_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edit_changes" ADD CONSTRAINT "edit_changes_edit_id_edits_id_fk" FOREIGN KEY ("edit_id") REFERENCES "public"."edits"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edit_changes" ADD CONSTRAINT "edit_changes_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edits" ADD CONSTRAINT "edits_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "manifests" ADD CONSTRAINT "manifests_volume_id_volumes_id_fk" FOREIGN KEY ("volume_id") REFERENCES "public"."volumes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_searches" ADD CONSTRAINT "saved_searches_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_views" ADD CONSTRAINT "saved_views_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "camera_proxies_production" ON "camera_proxies" USING btree ("production_id");--> statement-breakpoint
CREATE INDEX "clip_copies_file" ON "clip_copies" USING btree ("file_id");--> statement-breakpoint
CREATE INDEX "clip_index_production" ON "clip_index" USING btree ("production_id","clip_id");--> statement-breakpoint
CREATE INDEX "clip_staleness_production" ON "clip_staleness" USING btree ("production_id");--> statement-breakpoint
CREATE INDEX "edit_changes_clip" ON "edit_changes" USING btree ("clip_id");--> statement-breakpoint
CREATE INDEX "edits_production" ON "edits" USING btree ("production_id","id");--> statement-breakpoint
CREATE UNIQUE INDEX "manifests_place" ON "manifests" USING btree ("volume_id","path");--> statement-breakpoint
CREATE UNIQUE INDEX "saved_searches_name" ON "saved_searches" USING btree ("production_id","name");--> statement-breakpoint
CREATE UNIQUE INDEX "saved_views_name" ON "saved_views" USING btree ("production_id","name");--> statement-breakpoint
CREATE COLLATION "ennick_natural" (provider = icu, locale = 'en-u-kn-true-ks-level2');--> statement-breakpoint
CREATE INDEX "clip_index_name" ON "clip_index" ("production_id", "name" COLLATE "ennick_natural", "clip_id");--> statement-breakpoint
CREATE INDEX "clip_index_reel" ON "clip_index" ("production_id", "reel" COLLATE "ennick_natural", "name" COLLATE "ennick_natural", "clip_id");--> statement-breakpoint
CREATE INDEX "clip_index_start" ON "clip_index" ("production_id", "start" COLLATE "ennick_natural", "name" COLLATE "ennick_natural", "clip_id");--> statement-breakpoint
CREATE INDEX "clip_index_created" ON "clip_index" ("production_id", "created" COLLATE "ennick_natural", "name" COLLATE "ennick_natural", "clip_id");--> statement-breakpoint
CREATE INDEX "clip_index_size" ON "clip_index" ("production_id", (coalesce("size", -1)), "name" COLLATE "ennick_natural", "clip_id");--> statement-breakpoint
CREATE STATISTICS "clip_index_folded_reel" ON (lower("reel")) FROM "clip_index";--> statement-breakpoint
CREATE STATISTICS "clip_index_folded_name" ON (lower("name")) FROM "clip_index";--> statement-breakpoint
CREATE STATISTICS "clip_index_folded_file_name" ON (lower("file_name")) FROM "clip_index";--> statement-breakpoint
CREATE STATISTICS "clip_index_folded_folder" ON (lower("folder")) FROM "clip_index";--> statement-breakpoint
INSERT INTO "clip_staleness" ("production_id") SELECT "id" FROM "productions";
