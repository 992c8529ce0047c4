DROP INDEX "files_place";--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "is_replaced" boolean DEFAULT false NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX "files_place" ON "files" USING btree ("volume_id","path") WHERE not "files"."is_replaced";