CREATE TABLE "batch_lists" (
	"batch_id" uuid PRIMARY KEY NOT NULL,
	"file_name" text NOT NULL,
	"columns" jsonb NOT NULL,
	"rows" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "batch_lists" ADD CONSTRAINT "batch_lists_batch_id_make_batches_id_fk" FOREIGN KEY ("batch_id") REFERENCES "public"."make_batches"("id") ON DELETE cascade ON UPDATE no action;