CREATE TABLE "sound_envelopes" (
	"fingerprint" text PRIMARY KEY NOT NULL,
	"envelope" "bytea" NOT NULL,
	"tracks" jsonb NOT NULL,
	"taken_at" timestamp with time zone DEFAULT now() NOT NULL
);
