ALTER TABLE "decisions" DROP CONSTRAINT "decisions_cut_id_finding_key_pk";--> statement-breakpoint
CREATE UNIQUE INDEX "decisions_once" ON "decisions" USING btree ("cut_id",md5("finding_key"));