CREATE TABLE "finding_firsts" (
	"cut_id" uuid NOT NULL,
	"finding_mark" text NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "finding_firsts_cut_id_finding_mark_pk" PRIMARY KEY("cut_id","finding_mark")
);
--> statement-breakpoint
ALTER TABLE "finding_firsts" ADD CONSTRAINT "finding_firsts_cut_id_cuts_id_fk" FOREIGN KEY ("cut_id") REFERENCES "public"."cuts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
-- Clips tell of proxies that play while their originals are not there: every row of the index is made anew.
INSERT INTO "clip_staleness" ("production_id") SELECT "id" FROM "productions";
