CREATE TABLE "placements" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "placements_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"volume_id" uuid NOT NULL,
	"act" uuid NOT NULL,
	"by" text NOT NULL,
	"kind" text NOT NULL,
	"from_path" text NOT NULL,
	"to_path" text NOT NULL,
	"device" text NOT NULL,
	"inode" text NOT NULL,
	"size_bytes" bigint NOT NULL,
	"mtime_micros" bigint NOT NULL,
	"fingerprint" text NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "place" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "place" SET DATA TYPE bigint;--> statement-breakpoint
UPDATE "jobs" SET "place" = ordered.place FROM (SELECT id, row_number() OVER (ORDER BY place, created_at, id) AS place FROM "jobs") AS ordered WHERE ordered.id = "jobs".id;--> statement-breakpoint
CREATE SEQUENCE "jobs_place_seq" AS bigint OWNED BY "jobs"."place";--> statement-breakpoint
SELECT setval('jobs_place_seq', (SELECT coalesce(max("place"), 0) + 1 FROM "jobs"), false);--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "place" SET DEFAULT nextval('jobs_place_seq');--> statement-breakpoint
DO $$ BEGIN
  IF to_regclass('graphile_worker._private_jobs') IS NOT NULL THEN
    UPDATE graphile_worker._private_jobs AS entry SET priority = 0, run_at = 'epoch'::timestamptz + jobs.place * interval '1 millisecond'
    FROM "jobs" WHERE entry.key = jobs.id::text;
  END IF;
END $$;--> statement-breakpoint
ALTER TABLE "mends" ADD COLUMN "created" jsonb DEFAULT '{"volumeIds":[],"fileIds":[],"clipIds":[]}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "is_compared" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "volumes" ADD COLUMN "mount_path" text;--> statement-breakpoint
ALTER TABLE "workers" ADD COLUMN "seen_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "placements" ADD CONSTRAINT "placements_volume_id_volumes_id_fk" FOREIGN KEY ("volume_id") REFERENCES "public"."volumes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "placements_path" ON "placements" USING btree ("volume_id","to_path");--> statement-breakpoint
CREATE INDEX "placements_unsettled" ON "placements" USING btree ("volume_id") WHERE "placements"."state" = 'open' or "placements"."kind" = 'discarded';--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "placing";