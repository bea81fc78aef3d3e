CREATE TABLE "notes" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shot_id" text NOT NULL,
	"version_id" uuid,
	"answer_to" uuid,
	"first_frame" integer NOT NULL,
	"last_frame" integer NOT NULL,
	"x" double precision,
	"y" double precision,
	"words" text NOT NULL,
	"author" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"resolved_at" timestamp with time zone,
	"resolved_by" text
);
--> statement-breakpoint
CREATE TABLE "proof_frames" (
	"proof_id" uuid NOT NULL,
	"frame" integer NOT NULL,
	"name" text NOT NULL,
	"plate_sha256" text NOT NULL,
	"result_sha256" text NOT NULL,
	"changed_outside" integer NOT NULL,
	"is_as_rendered" boolean,
	"proof" jsonb NOT NULL,
	CONSTRAINT "proof_frames_proof_id_frame_pk" PRIMARY KEY("proof_id","frame")
);
--> statement-breakpoint
CREATE TABLE "proofs" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shot_id" text NOT NULL,
	"version_id" uuid,
	"state" text NOT NULL,
	"frames_done" integer DEFAULT 0 NOT NULL,
	"frames_total" integer NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"started_at" timestamp with time zone,
	"finished_at" timestamp with time zone,
	"error" text,
	CONSTRAINT "proofs_of" UNIQUE NULLS NOT DISTINCT("shot_id","version_id")
);
--> statement-breakpoint
CREATE TABLE "reviews" (
	"id" uuid PRIMARY KEY NOT NULL,
	"version_id" uuid NOT NULL,
	"state" text NOT NULL,
	"author" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "notes" ADD CONSTRAINT "notes_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "notes" ADD CONSTRAINT "notes_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "notes" ADD CONSTRAINT "notes_answer_to_notes_id_fk" FOREIGN KEY ("answer_to") REFERENCES "public"."notes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "proof_frames" ADD CONSTRAINT "proof_frames_proof_id_proofs_id_fk" FOREIGN KEY ("proof_id") REFERENCES "public"."proofs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "proofs" ADD CONSTRAINT "proofs_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "proofs" ADD CONSTRAINT "proofs_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "reviews" ADD CONSTRAINT "reviews_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "notes_of_shot" ON "notes" USING btree ("shot_id");--> statement-breakpoint
CREATE INDEX "reviews_of_version" ON "reviews" USING btree ("version_id","created_at");