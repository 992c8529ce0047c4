ALTER TABLE "volumes" ADD COLUMN "takes" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
INSERT INTO "clip_staleness" ("production_id") SELECT "id" FROM "productions";
--> statement-breakpoint
-- What was seen in files without an index was seen at other frames than was thought.
DELETE FROM "original_trials" USING "files" WHERE "files"."id" = "original_trials"."file_id" AND "files"."facts"->>'container' IN ('mpegts', 'mpeg');--> statement-breakpoint
DELETE FROM "picture_signatures" USING "files" WHERE "files"."fingerprint" = "picture_signatures"."fingerprint" AND "files"."facts"->>'container' IN ('mpegts', 'mpeg');
