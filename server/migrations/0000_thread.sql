CREATE TABLE "clip_files" (
	"clip_id" uuid NOT NULL,
	"ordinal" integer NOT NULL,
	"file_id" uuid NOT NULL,
	"part" text NOT NULL,
	CONSTRAINT "clip_files_clip_id_ordinal_pk" PRIMARY KEY("clip_id","ordinal")
);
--> statement-breakpoint
CREATE TABLE "clips" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"name" text NOT NULL,
	"reel" text,
	"reel_from" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "cuts" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"name" text NOT NULL,
	"format" text NOT NULL,
	"file_name" text NOT NULL,
	"rate_numerator" integer NOT NULL,
	"rate_denominator" integer NOT NULL,
	"drop_frame" boolean NOT NULL,
	"tracks" jsonb NOT NULL,
	"source_text" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "decisions" (
	"cut_id" uuid NOT NULL,
	"finding_key" text NOT NULL,
	"reason" text NOT NULL,
	"decided_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "decisions_cut_id_finding_key_pk" PRIMARY KEY("cut_id","finding_key")
);
--> statement-breakpoint
CREATE TABLE "events" (
	"cut_id" uuid NOT NULL,
	"position" integer NOT NULL,
	"event" jsonb NOT NULL,
	"chosen_clip_id" uuid,
	CONSTRAINT "events_cut_id_position_pk" PRIMARY KEY("cut_id","position")
);
--> statement-breakpoint
CREATE TABLE "files" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"volume_id" uuid NOT NULL,
	"path" text NOT NULL,
	"size_bytes" bigint NOT NULL,
	"mtime_micros" bigint NOT NULL,
	"fingerprint" text NOT NULL,
	"facts" jsonb,
	"problem" text,
	"is_gone" boolean DEFAULT false NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "handoffs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"cut_id" uuid NOT NULL,
	"name" text NOT NULL,
	"folder" text NOT NULL,
	"files" jsonb NOT NULL,
	"left_out" jsonb NOT NULL,
	"decisions" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "history" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "history_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"production_id" uuid NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"subject" text NOT NULL,
	"subject_id" text,
	"what" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "jobs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"title" text NOT NULL,
	"input" jsonb NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"progress" jsonb,
	"result" jsonb,
	"summary" text,
	"checks" jsonb,
	"error" text,
	"log" text,
	"cancel_requested" boolean DEFAULT false NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"placing" jsonb,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "mends" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"cut_id" uuid,
	"kind" text NOT NULL,
	"title" text NOT NULL,
	"changes" jsonb NOT NULL,
	"state" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"undone_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "pair_files" (
	"pair_id" uuid NOT NULL,
	"ordinal" integer NOT NULL,
	"file_id" uuid NOT NULL,
	"part" text NOT NULL,
	CONSTRAINT "pair_files_pair_id_ordinal_pk" PRIMARY KEY("pair_id","ordinal")
);
--> statement-breakpoint
CREATE TABLE "pairs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"clip_id" uuid NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"origin" text NOT NULL,
	"recipe_id" text,
	"recipe_version" integer,
	"viewing_lut" text,
	"content_width" integer,
	"content_height" integer,
	"original_fingerprints" jsonb NOT NULL,
	"made_fingerprints" jsonb NOT NULL,
	"comparison" jsonb,
	"is_active" boolean DEFAULT true NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"checked_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "productions" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"rate_numerator" integer NOT NULL,
	"rate_denominator" integer NOT NULL,
	"width" integer NOT NULL,
	"height" integer NOT NULL,
	"is_demo" boolean DEFAULT false NOT NULL,
	"proxy_suffixes" jsonb NOT NULL,
	"path_mappings" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "productions_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "volumes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"label" text NOT NULL,
	"kind" text NOT NULL,
	"root_path" text NOT NULL,
	"is_here" boolean DEFAULT true NOT NULL,
	"last_seen_at" timestamp with time zone,
	"last_scan_at" timestamp with time zone,
	"other_files" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "clip_files" ADD CONSTRAINT "clip_files_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clip_files" ADD CONSTRAINT "clip_files_file_id_files_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."files"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "clips" ADD CONSTRAINT "clips_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "cuts" ADD CONSTRAINT "cuts_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "decisions" ADD CONSTRAINT "decisions_cut_id_cuts_id_fk" FOREIGN KEY ("cut_id") REFERENCES "public"."cuts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "events" ADD CONSTRAINT "events_cut_id_cuts_id_fk" FOREIGN KEY ("cut_id") REFERENCES "public"."cuts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "events" ADD CONSTRAINT "events_chosen_clip_id_clips_id_fk" FOREIGN KEY ("chosen_clip_id") REFERENCES "public"."clips"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_volume_id_volumes_id_fk" FOREIGN KEY ("volume_id") REFERENCES "public"."volumes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "handoffs" ADD CONSTRAINT "handoffs_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "handoffs" ADD CONSTRAINT "handoffs_cut_id_cuts_id_fk" FOREIGN KEY ("cut_id") REFERENCES "public"."cuts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "history" ADD CONSTRAINT "history_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mends" ADD CONSTRAINT "mends_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mends" ADD CONSTRAINT "mends_cut_id_cuts_id_fk" FOREIGN KEY ("cut_id") REFERENCES "public"."cuts"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pair_files" ADD CONSTRAINT "pair_files_pair_id_pairs_id_fk" FOREIGN KEY ("pair_id") REFERENCES "public"."pairs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pair_files" ADD CONSTRAINT "pair_files_file_id_files_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."files"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairs" ADD CONSTRAINT "pairs_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "volumes" ADD CONSTRAINT "volumes_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "clip_files_file" ON "clip_files" USING btree ("file_id");--> statement-breakpoint
CREATE INDEX "clips_production" ON "clips" USING btree ("production_id");--> statement-breakpoint
CREATE UNIQUE INDEX "files_place" ON "files" USING btree ("volume_id","path");--> statement-breakpoint
CREATE INDEX "files_fingerprint" ON "files" USING btree ("fingerprint");--> statement-breakpoint
CREATE INDEX "history_production" ON "history" USING btree ("production_id","id");--> statement-breakpoint
CREATE INDEX "history_subject" ON "history" USING btree ("subject_id");--> statement-breakpoint
CREATE INDEX "jobs_production" ON "jobs" USING btree ("production_id","created_at");--> statement-breakpoint
CREATE INDEX "jobs_state" ON "jobs" USING btree ("state");--> statement-breakpoint
CREATE INDEX "pair_files_file" ON "pair_files" USING btree ("file_id");--> statement-breakpoint
CREATE INDEX "pairs_clip" ON "pairs" USING btree ("clip_id");--> statement-breakpoint
CREATE UNIQUE INDEX "volumes_label" ON "volumes" USING btree ("production_id","label");--> statement-breakpoint
CREATE UNIQUE INDEX "volumes_root" ON "volumes" USING btree ("production_id","root_path");