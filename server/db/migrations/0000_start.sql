CREATE TABLE "edits" (
	"shot_id" text NOT NULL,
	"revision" integer NOT NULL,
	"edit_id" uuid NOT NULL,
	"role" text NOT NULL,
	"edit" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "edits_shot_id_revision_pk" PRIMARY KEY("shot_id","revision"),
	CONSTRAINT "edits_edit_id_unique" UNIQUE("edit_id")
);
--> statement-breakpoint
CREATE TABLE "imports" (
	"id" uuid PRIMARY KEY NOT NULL,
	"production_id" text NOT NULL,
	"name" text NOT NULL,
	"plan" jsonb NOT NULL,
	"state" text NOT NULL,
	"frames_done" integer DEFAULT 0 NOT NULL,
	"frames_total" integer,
	"error" text,
	"shot_id" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "mends" (
	"shot_id" text NOT NULL,
	"id" text NOT NULL,
	"record" jsonb NOT NULL,
	CONSTRAINT "mends_shot_id_id_pk" PRIMARY KEY("shot_id","id")
);
--> statement-breakpoint
CREATE TABLE "plates" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shot_id" text NOT NULL,
	"source_name" text NOT NULL,
	"width" integer NOT NULL,
	"height" integer NOT NULL,
	"channels" integer NOT NULL,
	"bit_depth" integer NOT NULL,
	"rate_num" integer NOT NULL,
	"rate_den" integer NOT NULL,
	"first_frame" integer NOT NULL,
	"frame_count" integer NOT NULL,
	CONSTRAINT "plates_shot_id_unique" UNIQUE("shot_id"),
	CONSTRAINT "plates_depth" CHECK ("plates"."bit_depth" in (8, 16)),
	CONSTRAINT "plates_frames" CHECK ("plates"."frame_count" > 0)
);
--> statement-breakpoint
CREATE TABLE "productions" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"is_demo" boolean DEFAULT false NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "render_chunks" (
	"version_id" uuid NOT NULL,
	"index" integer NOT NULL,
	"first_frame" integer NOT NULL,
	"last_frame" integer NOT NULL,
	"is_done" boolean DEFAULT false NOT NULL,
	"frames_done" integer DEFAULT 0 NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "render_chunks_version_id_index_pk" PRIMARY KEY("version_id","index")
);
--> statement-breakpoint
CREATE TABLE "shots" (
	"id" text PRIMARY KEY NOT NULL,
	"production_id" text NOT NULL,
	"name" text NOT NULL,
	"title" text DEFAULT '' NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "versions" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shot_id" text NOT NULL,
	"number" integer NOT NULL,
	"format" text NOT NULL,
	"first_frame" integer NOT NULL,
	"last_frame" integer NOT NULL,
	"document" jsonb NOT NULL,
	"state" text NOT NULL,
	"file_name" text,
	"size_bytes" bigint,
	"error" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"finished_at" timestamp with time zone,
	CONSTRAINT "versions_number" UNIQUE("shot_id","number")
);
--> statement-breakpoint
CREATE TABLE "worker_beats" (
	"worker_id" text PRIMARY KEY NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "edits" ADD CONSTRAINT "edits_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "imports" ADD CONSTRAINT "imports_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "imports" ADD CONSTRAINT "imports_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mends" ADD CONSTRAINT "mends_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "plates" ADD CONSTRAINT "plates_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "render_chunks" ADD CONSTRAINT "render_chunks_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "shots" ADD CONSTRAINT "shots_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_shot_id_shots_id_fk" FOREIGN KEY ("shot_id") REFERENCES "public"."shots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "versions_recent" ON "versions" USING btree ("created_at" DESC NULLS FIRST);