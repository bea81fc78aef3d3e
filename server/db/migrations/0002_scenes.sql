CREATE TABLE "scenes" (
	"shot_id" text PRIMARY KEY NOT NULL,
	"state" text NOT NULL,
	"steps_done" integer DEFAULT 0 NOT NULL,
	"steps_total" integer DEFAULT 0 NOT NULL,
	"scene" jsonb,
	"revision" integer DEFAULT 0 NOT NULL,
	"error" text
);
--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "scene" jsonb;--> statement-breakpoint
ALTER TABLE "scenes" ADD CONSTRAINT "scenes_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;