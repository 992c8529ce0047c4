UPDATE "pairs" SET "is_compared" = "comparison" IS NOT NULL;--> statement-breakpoint
ALTER TABLE "pairs" DROP COLUMN "comparison";