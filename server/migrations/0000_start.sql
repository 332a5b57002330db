CREATE TABLE "characters" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"file" text NOT NULL,
	"is_demo" boolean DEFAULT false NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "files" (
	"hash" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"bytes" integer NOT NULL,
	"facts" jsonb NOT NULL,
	"facts_version" integer DEFAULT 0 NOT NULL,
	"skeleton" uuid,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "pairings" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"performer" uuid NOT NULL,
	"character" uuid NOT NULL,
	"choices" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "presets" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"output" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
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
	"version" integer DEFAULT 1 NOT NULL,
	"note" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "runs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"state" text DEFAULT 'going' NOT NULL,
	"output" jsonb NOT NULL,
	"decisions" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "schemes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"scheme" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "touch_up_sets" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"touch_ups" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "settings" (
	"name" text PRIMARY KEY NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "skeletons" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"key" text NOT NULL,
	"lengths" jsonb NOT NULL,
	"choices" jsonb NOT NULL,
	"rests" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"reference_file" text,
	"reference_clip" integer DEFAULT 0 NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "takes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"file" text NOT NULL,
	"clip" integer DEFAULT 0 NOT NULL,
	"tags" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"choices" jsonb,
	"seconds" real DEFAULT 0 NOT NULL,
	"is_demo" boolean DEFAULT false NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "transfers" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"take" uuid NOT NULL,
	"pairing" uuid NOT NULL,
	"choices" jsonb NOT NULL,
	"summary" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "versions" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"performer" uuid NOT NULL,
	"character" uuid NOT NULL,
	"choices" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "characters" ADD CONSTRAINT "characters_file_files_hash_fk" FOREIGN KEY ("file") REFERENCES "public"."files"("hash") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_skeleton_skeletons_id_fk" FOREIGN KEY ("skeleton") REFERENCES "public"."skeletons"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairings" ADD CONSTRAINT "pairings_performer_skeletons_id_fk" FOREIGN KEY ("performer") REFERENCES "public"."skeletons"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairings" ADD CONSTRAINT "pairings_character_characters_id_fk" FOREIGN KEY ("character") REFERENCES "public"."characters"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_items" ADD CONSTRAINT "run_items_run_runs_id_fk" FOREIGN KEY ("run") REFERENCES "public"."runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_items" ADD CONSTRAINT "run_items_take_takes_id_fk" FOREIGN KEY ("take") REFERENCES "public"."takes"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_items" ADD CONSTRAINT "run_items_character_characters_id_fk" FOREIGN KEY ("character") REFERENCES "public"."characters"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "takes" ADD CONSTRAINT "takes_file_files_hash_fk" FOREIGN KEY ("file") REFERENCES "public"."files"("hash") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "transfers" ADD CONSTRAINT "transfers_take_takes_id_fk" FOREIGN KEY ("take") REFERENCES "public"."takes"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "transfers" ADD CONSTRAINT "transfers_pairing_pairings_id_fk" FOREIGN KEY ("pairing") REFERENCES "public"."pairings"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_performer_skeletons_id_fk" FOREIGN KEY ("performer") REFERENCES "public"."skeletons"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_character_characters_id_fk" FOREIGN KEY ("character") REFERENCES "public"."characters"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "characters_file" ON "characters" USING btree ("file");--> statement-breakpoint
CREATE INDEX "files_skeleton" ON "files" USING btree ("skeleton");--> statement-breakpoint
CREATE UNIQUE INDEX "pairings_performer_character" ON "pairings" USING btree ("performer","character");--> statement-breakpoint
CREATE INDEX "run_items_run" ON "run_items" USING btree ("run","position");--> statement-breakpoint
CREATE INDEX "run_items_state" ON "run_items" USING btree ("state","priority");--> statement-breakpoint
CREATE INDEX "run_items_input" ON "run_items" USING btree ("input");--> statement-breakpoint
CREATE INDEX "skeletons_key" ON "skeletons" USING btree ("key");--> statement-breakpoint
CREATE UNIQUE INDEX "takes_file_clip" ON "takes" USING btree ("file","clip");--> statement-breakpoint
CREATE INDEX "takes_added" ON "takes" USING btree ("added_at");--> statement-breakpoint
CREATE UNIQUE INDEX "transfers_take_pairing" ON "transfers" USING btree ("take","pairing");--> statement-breakpoint
CREATE INDEX "transfers_changed" ON "transfers" USING btree ("changed_at");--> statement-breakpoint
CREATE INDEX "versions_pair" ON "versions" USING btree ("performer","character");