-- Where a timecode track begins, how many labels it counts, edit lists within a picture, and Matroska's rate are read since.
UPDATE "files" SET "to_read_again" = true FROM "volumes" WHERE "volumes"."id" = "files"."volume_id" AND "volumes"."kind" <> 'made' AND "files"."facts"->>'container' IN ('mkv', 'mov', 'mp4', 'mxf') AND jsonb_typeof("files"."facts"->'picture') = 'object';
