ALTER TABLE "jobs" ADD COLUMN "is_held" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "place" integer DEFAULT 0 NOT NULL;