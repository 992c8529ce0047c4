ALTER TABLE "files" ADD COLUMN "to_read_again" boolean DEFAULT false NOT NULL;--> statement-breakpoint
-- What begins the picture, an edit list, and how AVI and streams count is read since.
UPDATE "files" SET "to_read_again" = true FROM "volumes" WHERE "volumes"."id" = "files"."volume_id" AND "volumes"."kind" <> 'made' AND "files"."facts"->>'container' IN ('avi', 'mpegts', 'mpeg', 'mkv', 'mov', 'mp4') AND jsonb_typeof("files"."facts"->'picture') = 'object';
