ALTER TABLE "jobs" ADD COLUMN "files" jsonb;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "codecs" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "workers" ADD COLUMN "codecs" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "workers" ADD COLUMN "path_map" jsonb DEFAULT '[]'::jsonb NOT NULL;