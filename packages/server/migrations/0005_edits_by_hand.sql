ALTER TABLE "changes" ADD COLUMN "counts" jsonb;--> statement-breakpoint
ALTER TABLE "changes" ADD COLUMN "key" text;--> statement-breakpoint
ALTER TABLE "changes" ADD COLUMN "undoes" integer;--> statement-breakpoint
CREATE UNIQUE INDEX "changes_by_key" ON "changes" USING btree ("table_id","key");