CREATE TABLE "size_samples" (
	"clip_id" uuid NOT NULL,
	"recipe_id" text NOT NULL,
	"recipe_version" integer NOT NULL,
	"fingerprint" text NOT NULL,
	"frames" integer NOT NULL,
	"bytes" bigint NOT NULL,
	"pixels" integer NOT NULL,
	"milliseconds" integer NOT NULL,
	CONSTRAINT "size_samples_clip_id_recipe_id_recipe_version_pk" PRIMARY KEY("clip_id","recipe_id","recipe_version")
);
--> statement-breakpoint
ALTER TABLE "size_samples" ADD CONSTRAINT "size_samples_clip_id_clips_id_fk" FOREIGN KEY ("clip_id") REFERENCES "public"."clips"("id") ON DELETE cascade ON UPDATE no action;