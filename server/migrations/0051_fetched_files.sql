CREATE TABLE "fetched_files" (
	"job_id" uuid NOT NULL,
	"ordinal" integer NOT NULL,
	"path" text NOT NULL,
	"size_bytes" bigint,
	"done_bytes" bigint DEFAULT 0 NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"reason" text,
	CONSTRAINT "fetched_files_job_id_ordinal_pk" PRIMARY KEY("job_id","ordinal")
);
--> statement-breakpoint
ALTER TABLE "fetched_files" ADD CONSTRAINT "fetched_files_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE cascade ON UPDATE no action;