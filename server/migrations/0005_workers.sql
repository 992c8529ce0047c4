CREATE TABLE "workers" (
	"id" uuid PRIMARY KEY NOT NULL,
	"host" text NOT NULL,
	"cores" integer NOT NULL,
	"makes_at_once" integer NOT NULL,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL,
	"stopped_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "worker_id" uuid;