CREATE TABLE "handed_cuts" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"handoff_id" uuid,
	"job_id" uuid,
	"handed" jsonb NOT NULL,
	CONSTRAINT "handed_cuts_handoff_id_unique" UNIQUE("handoff_id"),
	CONSTRAINT "handed_cuts_job_id_unique" UNIQUE("job_id")
);
--> statement-breakpoint
ALTER TABLE "handed_cuts" ADD CONSTRAINT "handed_cuts_handoff_id_handoffs_id_fk" FOREIGN KEY ("handoff_id") REFERENCES "public"."handoffs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "handed_cuts" ADD CONSTRAINT "handed_cuts_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE cascade ON UPDATE no action;