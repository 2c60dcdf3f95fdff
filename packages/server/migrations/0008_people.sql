CREATE TABLE "access_changes" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"who" text NOT NULL,
	"what" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "invitations" (
	"hash" text PRIMARY KEY NOT NULL,
	"person_id" integer,
	"until" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "people" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"name_key" text NOT NULL,
	"password" text,
	"everything" boolean DEFAULT false NOT NULL,
	"disabled_at" timestamp with time zone,
	"seen_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "people_name_key_unique" UNIQUE("name_key")
);
--> statement-breakpoint
CREATE TABLE "roles" (
	"person_id" integer NOT NULL,
	"table_id" integer NOT NULL,
	"role" text NOT NULL,
	CONSTRAINT "roles_person_id_table_id_pk" PRIMARY KEY("person_id","table_id")
);
--> statement-breakpoint
CREATE TABLE "shares" (
	"box_id" integer PRIMARY KEY NOT NULL,
	"share" jsonb NOT NULL,
	"link_hash" text,
	"opened_at" timestamp with time zone,
	"opened" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "shares_link_hash_unique" UNIQUE("link_hash")
);
--> statement-breakpoint
CREATE TABLE "sign_ins" (
	"hash" text PRIMARY KEY NOT NULL,
	"person_id" integer NOT NULL,
	"until" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "invitations" ADD CONSTRAINT "invitations_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "roles" ADD CONSTRAINT "roles_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "roles" ADD CONSTRAINT "roles_table_id_tables_id_fk" FOREIGN KEY ("table_id") REFERENCES "public"."tables"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "shares" ADD CONSTRAINT "shares_box_id_boxes_id_fk" FOREIGN KEY ("box_id") REFERENCES "public"."boxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sign_ins" ADD CONSTRAINT "sign_ins_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "sign_ins_of_person" ON "sign_ins" USING btree ("person_id");