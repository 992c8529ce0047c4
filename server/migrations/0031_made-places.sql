ALTER TABLE "volumes" ADD COLUMN "takes" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
INSERT INTO "clip_staleness" ("production_id") SELECT "id" FROM "productions";
