CREATE TABLE "lut_assignments" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"production_id" uuid NOT NULL,
	"camera" text,
	"clip_id" uuid,
	"lut_id" text
);
--> statement-breakpoint
CREATE TABLE "luts" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"group" text NOT NULL,
	"kind" text NOT NULL,
	"size" integer NOT NULL,
	"cube" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"retired_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "lut_assignments" ADD CONSTRAINT "lut_assignments_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "lut_assignments" ADD CONSTRAINT "lut_assignments_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "lut_assignments_camera" ON "lut_assignments" USING btree ("production_id","camera");--> statement-breakpoint
CREATE UNIQUE INDEX "lut_assignments_clip" ON "lut_assignments" USING btree ("production_id","clip_id");