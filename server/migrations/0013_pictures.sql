CREATE TABLE "picture_signatures" (
	"fingerprint" text PRIMARY KEY NOT NULL,
	"signature" "bytea" NOT NULL,
	"shapes" "bytea" NOT NULL,
	"taken_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "pictures_compared" jsonb;