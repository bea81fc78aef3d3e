CREATE TABLE "tracks" (
	"shot_id" text NOT NULL,
	"id" text NOT NULL,
	"record" jsonb NOT NULL,
	CONSTRAINT "tracks_shot_id_id_pk" PRIMARY KEY("shot_id","id")
);
--> statement-breakpoint
ALTER TABLE "tracks" ADD CONSTRAINT "tracks_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;