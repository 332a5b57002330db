CREATE TABLE "meshes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"file" text NOT NULL,
	"file_name" text NOT NULL,
	"bytes" integer NOT NULL,
	"facts" jsonb NOT NULL,
	"choices" jsonb,
	"is_demo" boolean DEFAULT false NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE UNIQUE INDEX "meshes_file" ON "meshes" USING btree ("file");