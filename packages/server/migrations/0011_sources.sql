CREATE TABLE "source_runs" (
	"table_id" integer NOT NULL,
	"due" timestamp with time zone NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"outcome" text NOT NULL,
	"counts" jsonb,
	"why" text,
	"change" integer,
	"missed" integer DEFAULT 0 NOT NULL,
	"who" text,
	CONSTRAINT "source_runs_table_id_due_pk" PRIMARY KEY("table_id","due")
);
--> statement-breakpoint
CREATE TABLE "sources" (
	"table_id" integer PRIMARY KEY NOT NULL,
	"source" jsonb NOT NULL,
	"secret" text,
	"version" integer DEFAULT 1 NOT NULL,
	"turn" integer DEFAULT 1 NOT NULL,
	"base_at" timestamp with time zone NOT NULL,
	"next_at" timestamp with time zone,
	"seen" jsonb,
	"rows_from" timestamp with time zone,
	"in_a_row" integer DEFAULT 0 NOT NULL,
	"failures" integer DEFAULT 0 NOT NULL,
	"waiting" jsonb
);
--> statement-breakpoint
ALTER TABLE "tables" ADD COLUMN "late_since" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "source_runs" ADD CONSTRAINT "source_runs_table_id_tables_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."tables"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sources" ADD CONSTRAINT "sources_table_id_tables_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."tables"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "sources_by_next" ON "sources" USING btree ("next_at");