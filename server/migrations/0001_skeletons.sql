CREATE TABLE "schemes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"scheme" jsonb NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "skeletons" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"key" text NOT NULL,
	"lengths" jsonb NOT NULL,
	"choices" jsonb NOT NULL,
	"rests" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
DROP INDEX "pairings_pair";--> statement-breakpoint
ALTER TABLE "pairings" ALTER COLUMN "take_file" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "facts_version" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "skeleton" uuid;--> statement-breakpoint
ALTER TABLE "pairings" ADD COLUMN "performer" uuid;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "tags" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "note" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "choices" jsonb;--> statement-breakpoint
CREATE INDEX "skeletons_key" ON "skeletons" USING btree ("key");--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_skeleton_skeletons_id_fk" FOREIGN KEY ("skeleton") REFERENCES "public"."skeletons"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairings" ADD CONSTRAINT "pairings_performer_skeletons_id_fk" FOREIGN KEY ("performer") REFERENCES "public"."skeletons"("id") ON DELETE restrict ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "pairings_performer_character" ON "pairings" USING btree ("performer","character");