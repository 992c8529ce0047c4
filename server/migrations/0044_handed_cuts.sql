CREATE TABLE "handed_cuts" (
	"handoff_id" uuid PRIMARY KEY NOT NULL,
	"handed" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "handed_cuts" ADD CONSTRAINT "handed_cuts_handoff_id_handoffs_id_fk" FOREIGN KEY ("handoff_id") REFERENCES "public"."handoffs"("id") ON DELETE cascade ON UPDATE no action;