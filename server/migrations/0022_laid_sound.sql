ALTER TABLE "pairs" ADD COLUMN "laid_sound" jsonb;--> statement-breakpoint
UPDATE "recipes" SET "recipe" = "recipe" || '{"syncedSound": false}' WHERE NOT "recipe" ? 'syncedSound';
