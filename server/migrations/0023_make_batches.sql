CREATE TABLE "make_batches" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"recipes" jsonb NOT NULL,
	"clip_ids" jsonb NOT NULL,
	"skipped" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "make_batches" ADD CONSTRAINT "make_batches_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "make_batches_production" ON "make_batches" USING btree ("production_id","created_at");--> statement-breakpoint
UPDATE "recipes" SET "recipe" = "recipe" || '{"quality": {"kind": "step", "step": "usual"}}' WHERE NOT "recipe" ? 'quality';
