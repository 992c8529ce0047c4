ALTER TABLE "volumes" ADD COLUMN "unread_kinds" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
-- The scan of a picture is told in words.
INSERT INTO "clip_staleness" ("production_id") SELECT "id" FROM "productions";
