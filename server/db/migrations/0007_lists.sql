ALTER TABLE "mends" ADD COLUMN "is_on" boolean GENERATED ALWAYS AS (coalesce((record ->> 'isOn')::boolean, true)) STORED;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "mend_count" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "needs_scene" boolean DEFAULT false NOT NULL;--> statement-breakpoint
UPDATE "versions" SET "needs_scene" = true, "mend_count" = (SELECT count(*) FROM jsonb_array_elements("document" -> 'mends') AS one WHERE coalesce((one ->> 'isOn')::boolean, true));
