ALTER TABLE "cuts" ALTER COLUMN "source_text" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "cuts" ADD COLUMN "source_bytes" "bytea";