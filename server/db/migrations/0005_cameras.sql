CREATE TABLE "cameras" (
	"id" uuid PRIMARY KEY NOT NULL,
	"production_id" text NOT NULL,
	"name" text NOT NULL,
	"sensor_width" integer NOT NULL,
	"sensor_height" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "cameras_name" UNIQUE("production_id","name")
);
--> statement-breakpoint
CREATE TABLE "recipes" (
	"id" uuid PRIMARY KEY NOT NULL,
	"production_id" text NOT NULL,
	"name" text NOT NULL,
	"recipe" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "recipes_name" UNIQUE("production_id","name")
);
--> statement-breakpoint
CREATE TABLE "sensor_maps" (
	"id" uuid PRIMARY KEY NOT NULL,
	"camera_id" uuid NOT NULL,
	"made_on" date NOT NULL,
	"pixels" jsonb NOT NULL,
	"motes" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "camera_id" uuid;--> statement-breakpoint
ALTER TABLE "cameras" ADD CONSTRAINT "cameras_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "recipes" ADD CONSTRAINT "recipes_production_id_productions_id_fk" FOREIGN KEY ("production_id") REFERENCES "public"."productions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sensor_maps" ADD CONSTRAINT "sensor_maps_camera_id_cameras_id_fk" FOREIGN KEY ("camera_id") REFERENCES "public"."cameras"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "shots" ADD CONSTRAINT "shots_camera_id_cameras_id_fk" FOREIGN KEY ("camera_id") REFERENCES "public"."cameras"("id") ON DELETE set null ON UPDATE no action;