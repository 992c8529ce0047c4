CREATE TABLE "clip_views" (
	"clip_id" uuid PRIMARY KEY NOT NULL,
	"shown" text,
	"in_frame" integer,
	"out_frame" integer
);
--> statement-breakpoint
CREATE TABLE "view_notes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"clip_id" uuid NOT NULL,
	"frame" integer NOT NULL,
	"text" text NOT NULL,
	"kind" text NOT NULL,
	"seen_on" text NOT NULL,
	"is_on_original" boolean NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "productions" ADD COLUMN "shown" text DEFAULT 'proxies first' NOT NULL;--> statement-breakpoint
ALTER TABLE "clip_views" ADD CONSTRAINT "clip_views_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "view_notes" ADD CONSTRAINT "view_notes_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "view_notes_clip" ON "view_notes" USING btree ("clip_id");