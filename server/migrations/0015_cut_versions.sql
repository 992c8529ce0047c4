ALTER TABLE "cuts" ADD COLUMN "line_id" uuid DEFAULT gen_random_uuid() NOT NULL;--> statement-breakpoint
ALTER TABLE "cuts" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "cuts" ADD COLUMN "besides" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "cuts" ADD COLUMN "left_out" jsonb DEFAULT '[]'::jsonb NOT NULL;