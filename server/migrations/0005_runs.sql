CREATE TABLE "presets" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"output" jsonb NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "run_items" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"run" uuid NOT NULL,
	"take" uuid NOT NULL,
	"character" uuid NOT NULL,
	"position" integer NOT NULL,
	"priority" integer DEFAULT 0 NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"claimed_by" text,
	"beat_at" timestamp with time zone,
	"input" text,
	"fault" jsonb,
	"summary" jsonb,
	"report" jsonb,
	"reduced" jsonb,
	"file_name" text NOT NULL,
	"format" text,
	"file" text,
	"bytes" integer,
	"seconds" real,
	"review" text DEFAULT 'none' NOT NULL,
	"note" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "runs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"state" text DEFAULT 'going' NOT NULL,
	"output" jsonb NOT NULL,
	"decisions" jsonb NOT NULL,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "run_items" ADD CONSTRAINT "run_items_run_runs_id_fk" FOREIGN KEY ("run") REFERENCES "public"."runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_items" ADD CONSTRAINT "run_items_take_takes_id_fk" FOREIGN KEY ("take") REFERENCES "public"."takes"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_items" ADD CONSTRAINT "run_items_character_characters_id_fk" FOREIGN KEY ("character") REFERENCES "public"."characters"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "run_items_run" ON "run_items" USING btree ("run","position");--> statement-breakpoint
CREATE INDEX "run_items_state" ON "run_items" USING btree ("state","priority");--> statement-breakpoint
CREATE INDEX "run_items_input" ON "run_items" USING btree ("input");