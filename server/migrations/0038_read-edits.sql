-- Where a timecode track begins, edit lists that begin within a picture, and the rate of Matroska are read otherwise since.
UPDATE "files" SET "to_read_again" = true FROM "volumes" WHERE "volumes"."id" = "files"."volume_id" AND "volumes"."kind" <> 'made' AND "files"."facts"->>'container' IN ('mkv', 'mov', 'mp4') AND jsonb_typeof("files"."facts"->'picture') = 'object';
