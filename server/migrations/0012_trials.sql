CREATE TABLE "original_trials" (
	"file_id" uuid PRIMARY KEY NOT NULL,
	"fingerprint" text NOT NULL,
	"complaint" text,
	"tried_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "original_trials" ADD CONSTRAINT "original_trials_file_id_files_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."files"("id") ON DELETE cascade ON UPDATE no action;