CREATE TABLE "tokens" (
	"id" serial PRIMARY KEY NOT NULL,
	"hash" text NOT NULL,
	"person_id" integer NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"tables" jsonb,
	"until" timestamp with time zone NOT NULL,
	"used_at" timestamp with time zone,
	CONSTRAINT "tokens_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
ALTER TABLE "tokens" ADD CONSTRAINT "tokens_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "tokens_of_person" ON "tokens" USING btree ("person_id");