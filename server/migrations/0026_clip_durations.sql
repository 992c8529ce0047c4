ALTER TABLE "clip_index" ADD COLUMN "duration" text DEFAULT '' NOT NULL;--> statement-breakpoint
INSERT INTO "clip_staleness" ("production_id") SELECT "id" FROM "productions";
