CREATE TABLE "views" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shot_id" text NOT NULL,
	"name" text NOT NULL,
	"view" jsonb NOT NULL,
	"state" text NOT NULL,
	"frames_done" integer DEFAULT 0 NOT NULL,
	"frames_total" integer NOT NULL,
	"error" text,
	"started_at" timestamp with time zone,
	"made_shot_id" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "views_made_shot_id_unique" UNIQUE("made_shot_id")
);
--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "is_all_round" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "views" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "views" ADD CONSTRAINT "views_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "views" ADD CONSTRAINT "views_made_shot_id_shots_id_fk" FOREIGN KEY ("made_shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "views_of_shot" ON "views" USING btree ("shot_id");