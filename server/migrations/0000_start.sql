CREATE TABLE "characters" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"file" text NOT NULL,
	"is_demo" boolean DEFAULT false NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "files" (
	"hash" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"bytes" integer NOT NULL,
	"facts" jsonb NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "pairings" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"take_file" text NOT NULL,
	"character" uuid NOT NULL,
	"choices" jsonb NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "takes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"file" text NOT NULL,
	"clip" integer DEFAULT 0 NOT NULL,
	"is_demo" boolean DEFAULT false NOT NULL,
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
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "characters" ADD CONSTRAINT "characters_file_files_hash_fk" FOREIGN KEY ("file") REFERENCES "public"."files"("hash") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairings" ADD CONSTRAINT "pairings_take_file_files_hash_fk" FOREIGN KEY ("take_file") REFERENCES "public"."files"("hash") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairings" ADD CONSTRAINT "pairings_character_characters_id_fk" FOREIGN KEY ("character") REFERENCES "public"."characters"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "takes" ADD CONSTRAINT "takes_file_files_hash_fk" FOREIGN KEY ("file") REFERENCES "public"."files"("hash") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "transfers" ADD CONSTRAINT "transfers_take_takes_id_fk" FOREIGN KEY ("take") REFERENCES "public"."takes"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "transfers" ADD CONSTRAINT "transfers_pairing_pairings_id_fk" FOREIGN KEY ("pairing") REFERENCES "public"."pairings"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "characters_file" ON "characters" USING btree ("file");--> statement-breakpoint
CREATE UNIQUE INDEX "pairings_pair" ON "pairings" USING btree ("take_file","character");--> statement-breakpoint
CREATE UNIQUE INDEX "takes_file_clip" ON "takes" USING btree ("file","clip");--> statement-breakpoint
CREATE UNIQUE INDEX "transfers_take_pairing" ON "transfers" USING btree ("take","pairing");--> statement-breakpoint
CREATE INDEX "transfers_changed" ON "transfers" USING btree ("changed_at");