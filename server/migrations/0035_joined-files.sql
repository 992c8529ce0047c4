CREATE TABLE "joined_files" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"batch_id" uuid,
	"volume_id" uuid NOT NULL,
	"path" text NOT NULL,
	"recipe" text NOT NULL,
	"entries" jsonb NOT NULL,
	"rate_numerator" integer NOT NULL,
	"rate_denominator" integer NOT NULL,
	"size_bytes" bigint NOT NULL,
	"fingerprint" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "joined_files" ADD CONSTRAINT "joined_files_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "joined_files" ADD CONSTRAINT "joined_files_batch_id_make_batches_id_fk" FOREIGN KEY ("batch_id") REFERENCES "public"."make_batches"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "joined_files" ADD CONSTRAINT "joined_files_volume_id_volumes_id_fk" FOREIGN KEY ("volume_id") REFERENCES "public"."volumes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "joined_files_batch" ON "joined_files" USING btree ("batch_id");