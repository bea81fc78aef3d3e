CREATE TABLE "marks" (
	"id" uuid PRIMARY KEY NOT NULL,
	"production_id" text NOT NULL,
	"name" text NOT NULL,
	"picture" text NOT NULL,
	"width" integer NOT NULL,
	"height" integer NOT NULL,
	"place" jsonb,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "marks_name" UNIQUE("production_id","name")
);
--> statement-breakpoint
ALTER TABLE "marks" ADD CONSTRAINT "marks_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE no action ON UPDATE no action;