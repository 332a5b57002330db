import type { SheetItem } from './item';

const COLUMNS = [
  'take',
  'character',
  'file',
  'review',
  'id',
  'figure',
  'value',
  'unit',
  'mark',
  'good',
  'fault',
  'performer',
  'plain',
  'frame',
  'seen',
];

/** Check sheets as comma-separated values, one line a figure; frames count from 1. */
export function sheetCsv(items: readonly SheetItem[]): string {
  const lines = items.flatMap(({ take, character, fileName, review, figures, plain }) =>
    figures.map((figure) =>
      [
        take,
        character,
        fileName,
        review,
        figure.id,
        figure.name,
        figure.value,
        figure.unit,
        figure.mark,
        figure.limit.good,
        figure.limit.fault,
        figure.performer,
        plain.find(({ id }) => id === figure.id)?.value ?? null,
        figure.frame === null ? null : figure.frame + 1,
        figure.words,
      ]
        .map(cell)
        .join(','),
    ),
  );
  return `${[COLUMNS.join(','), ...lines].join('\n')}\n`;
}

function cell(value: string | number | null): string {
  const text = value === null ? '' : String(value);
  // A spreadsheet takes what begins so for a formula.
  const safe = /^[=+\-@\t\r]/.test(text) && typeof value === 'string' ? `'${text}` : text;
  return /[",\n\r]/.test(safe) ? `"${safe.replace(/"/g, '""')}"` : safe;
}
