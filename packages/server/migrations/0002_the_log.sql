CREATE TABLE "changes" (
	"table_id" integer NOT NULL,
	"number" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"who" text,
	"kind" text NOT NULL,
	"rows" integer NOT NULL,
	"row_changes" jsonb,
	"columns" jsonb,
	CONSTRAINT "changes_table_id_number_pk" PRIMARY KEY("table_id","number")
);
--> statement-breakpoint
ALTER TABLE "tables" ADD COLUMN "last_change" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "tables" ADD COLUMN "next_row" bigint DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "tables" ADD COLUMN "source" text;--> statement-breakpoint
ALTER TABLE "tables" ADD COLUMN "deleted_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "changes" ADD CONSTRAINT "changes_table_id_tables_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."tables"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "boxes_of_table" ON "boxes" USING btree ("table_id");--> statement-breakpoint
UPDATE "tables" SET "last_change" = 1, "next_row" = coalesce((SELECT max("id") + 1 FROM "rows" WHERE "rows"."table_id" = "tables"."id"), 1) WHERE "completed_at" IS NOT NULL;--> statement-breakpoint
INSERT INTO "changes" ("table_id", "number", "at", "kind", "rows") SELECT "id", 1, "completed_at", 'brought in', "row_count" FROM "tables" WHERE "completed_at" IS NOT NULL;
