CREATE TABLE "change_rows" (
	"table_id" integer NOT NULL,
	"number" integer NOT NULL,
	"piece" integer NOT NULL,
	"row_changes" jsonb NOT NULL,
	CONSTRAINT "change_rows_table_id_number_piece_pk" PRIMARY KEY("table_id","number","piece")
);
--> statement-breakpoint
CREATE TABLE "edit_keys" (
	"table_id" integer NOT NULL,
	"key" text NOT NULL,
	"asked" text NOT NULL,
	"number" integer NOT NULL,
	"made" boolean NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "edit_keys_table_id_key_pk" PRIMARY KEY("table_id","key")
);
--> statement-breakpoint
ALTER TABLE "boxes" ADD COLUMN "opened" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "changes" ADD COLUMN "pieces" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "rows" ADD COLUMN "said" text;--> statement-breakpoint
ALTER TABLE "tables" ADD COLUMN "refreshed_by" jsonb;--> statement-breakpoint
ALTER TABLE "tables" ADD COLUMN "said_known" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "change_rows" ADD CONSTRAINT "change_rows_table_id_number_changes_table_id_number_fk" FOREIGN KEY ("table_id","number") REFERENCES "public"."changes"("table_id","number") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "edit_keys" ADD CONSTRAINT "edit_keys_table_id_tables_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."tables"("id") ON DELETE cascade ON UPDATE no action;