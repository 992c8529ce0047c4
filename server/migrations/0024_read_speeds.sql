CREATE TABLE "read_speeds" (
	"volume_id" uuid PRIMARY KEY NOT NULL,
	"bytes_per_second" double precision NOT NULL,
	"measured_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "read_speeds" ADD CONSTRAINT "read_speeds_volume_id_volumes_id_fk" FOREIGN KEY ("volume_id") REFERENCES "public"."volumes"("id") ON DELETE cascade ON UPDATE no action;