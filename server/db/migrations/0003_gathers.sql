CREATE TABLE "gathers" (
	"shot_id" text NOT NULL,
	"mend_id" text NOT NULL,
	"state" text NOT NULL,
	"frames_done" integer DEFAULT 0 NOT NULL,
	"frames_total" integer DEFAULT 0 NOT NULL,
	"started_at" timestamp with time zone,
	"error" text,
	CONSTRAINT "gathers_shot_id_mend_id_pk" PRIMARY KEY("shot_id","mend_id")
);
--> statement-breakpoint
ALTER TABLE "gathers" ADD CONSTRAINT "gathers_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;