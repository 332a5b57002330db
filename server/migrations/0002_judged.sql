ALTER TABLE "skeletons" ADD COLUMN "reference_file" text;--> statement-breakpoint
ALTER TABLE "skeletons" ADD COLUMN "reference_clip" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
-- A skeleton that is known already is measured on the first of its files.
UPDATE "skeletons" SET "reference_file" = (
  SELECT "hash" FROM "files" WHERE "files"."skeleton" = "skeletons"."id" ORDER BY "files"."added_at" LIMIT 1
);--> statement-breakpoint
-- Handles of takes were frames; they are seconds of the recording now, which no other rate moves.
UPDATE "takes" SET "choices" = ("choices" - 'first' - 'last') || jsonb_build_object(
  'from', CASE WHEN jsonb_typeof("choices"->'first') = 'number'
    THEN ("choices"->>'first')::float8 / ("files"."facts"->'clips'->"takes"."clip"->>'fps')::float8 END,
  'to', CASE WHEN jsonb_typeof("choices"->'last') = 'number'
    THEN ("choices"->>'last')::float8 / ("files"."facts"->'clips'->"takes"."clip"->>'fps')::float8 END
) FROM "files" WHERE "files"."hash" = "takes"."file" AND "takes"."choices" ? 'first';--> statement-breakpoint
-- Figures of transfers were the solver's own; what a judge of its own says is found when one is opened again.
UPDATE "transfers" SET "summary" = jsonb_build_object(
  'frames', "summary"->'frames', 'good', 0, 'cautions', 0, 'faults', 0, 'unseen', 0,
  'worst', 'figures of an older version; open it again', 'figures', '{}'::jsonb
) WHERE "summary" ? 'worstSlide';
