CREATE TABLE "settings" (
	"name" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "seconds" real DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX "files_skeleton" ON "files" USING btree ("skeleton");--> statement-breakpoint
CREATE INDEX "takes_added" ON "takes" USING btree ("added_at");--> statement-breakpoint
UPDATE "takes" SET "seconds" = coalesce(("files"."facts"->'clips'->"takes"."clip"->>'seconds')::real, 0) FROM "files" WHERE "files"."hash" = "takes"."file";
