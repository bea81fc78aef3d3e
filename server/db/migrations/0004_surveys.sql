CREATE TABLE "finds" (
	"shot_id" text NOT NULL,
	"id" text NOT NULL,
	"find" jsonb NOT NULL,
	"is_dismissed" boolean DEFAULT false NOT NULL,
	"is_current" boolean DEFAULT true NOT NULL,
	CONSTRAINT "finds_shot_id_id_pk" PRIMARY KEY("shot_id","id")
);
--> statement-breakpoint
CREATE TABLE "surveys" (
	"shot_id" text PRIMARY KEY NOT NULL,
	"state" text NOT NULL,
	"frames_done" integer DEFAULT 0 NOT NULL,
	"frames_total" integer DEFAULT 0 NOT NULL,
	"about" jsonb,
	"started_at" timestamp with time zone,
	"error" text
);
--> statement-breakpoint
ALTER TABLE "finds" ADD CONSTRAINT "finds_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "surveys" ADD CONSTRAINT "surveys_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;