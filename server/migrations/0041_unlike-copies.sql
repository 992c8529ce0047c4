ALTER TABLE "clip_copies" ADD COLUMN "is_unlike" boolean DEFAULT false NOT NULL;--> statement-breakpoint
CREATE INDEX "clip_copies_unread" ON "clip_copies" USING btree ("file_id") WHERE not is_verified and not is_unlike;--> statement-breakpoint
CREATE INDEX "clip_copies_unlike" ON "clip_copies" USING btree ("clip_id") WHERE is_unlike;