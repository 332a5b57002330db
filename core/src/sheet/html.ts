import { limitText, verdictOf, type Mark } from '../judge';
import { PROGRAM } from '../version';
import { textOf, type SheetItem } from './item';
import type { Picture, Series } from './look';

const escape = (text: string): string =>
  text.replace(/[&<>"']/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' })[c] ?? c);

const MARKS: Readonly<Record<Mark, string>> = { good: 'good', caution: 'look at it', fault: 'fault', unseen: 'not seen' };
const VERDICTS: Readonly<Record<Mark, string>> = {
  good: 'every figure is good',
  caution: 'some figures are worth a look',
  fault: 'some figures are over their fault limit',
  unseen: 'nothing could be judged',
};

/**
 * Check sheets of many transfers as one page that needs nothing else: it can be mailed, opened anywhere and printed. Every text is
 * made harmless; there is no script in it.
 * @param title of the whole
 * @param madeAt ISO time
 */
export function sheetHtml(title: string, items: readonly SheetItem[], madeAt: string): string {
  const counts = (item: SheetItem, mark: Mark): number => item.figures.filter((figure) => figure.mark === mark).length;
  const overall = verdictOf(items.map(({ figures }) => ({ mark: verdictOf(figures) })));
  const rows = items.map(
    (item, i) =>
      `<tr><td><a href="#t${i}">${escape(item.take)}</a></td><td>${escape(item.character)}</td><td>${escape(item.fileName)}</td>` +
      (['fault', 'caution', 'good'] as const)
        .map((mark) => `<td class="n ${counts(item, mark) > 0 ? mark : ''}">${counts(item, mark)}</td>`)
        .join('') +
      `<td>${escape(item.review === 'none' ? '' : item.review)}</td><td>${escape(item.note)}</td></tr>`,
  );
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escape(title)}</title>
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<style>
body{font:14px/1.45 system-ui,sans-serif;color:#29322f;background:#fbf9f4;max-width:1000px;margin:24px auto;padding:0 16px}
table{border-collapse:collapse;width:100%;margin:8px 0 20px}th,td{text-align:left;padding:3px 8px;border-bottom:1px solid #ddd6c8;vertical-align:top}
.n{text-align:right;font-variant-numeric:tabular-nums;white-space:nowrap}.fault{color:#a3271c;font-weight:600}.caution{color:#7a5200;font-weight:600}.good{color:#0e6a64}.unseen{color:#6b6a60}
h2{border-top:2px solid #29322f;padding-top:8px;margin-top:32px}figure{display:inline-block;margin:4px 10px 4px 0}figcaption{font-size:12px;color:#5b5c54}
svg{background:#fffdf8;border:1px solid #ddd6c8}@media print{h2{break-before:page}body{background:#fff}}
</style></head><body>
<h1>${escape(title)}</h1>
<p><strong class="${overall}">Verdict: ${VERDICTS[overall]}.</strong> ${items.length} ${items.length === 1 ? 'transfer' : 'transfers'}, made ${escape(madeAt.slice(0, 16).replace('T', ' '))} UTC by ${PROGRAM.name} ${PROGRAM.version}. Frames count from 1.</p>
<table><thead><tr><th>take</th><th>character</th><th>file</th><th class="n">faults</th><th class="n">to look at</th><th class="n">good</th><th>review</th><th>note</th></tr></thead>
<tbody>${rows.join('\n')}</tbody></table>
${items.map(section).join('\n')}
</body></html>
`;
}

function section(item: SheetItem, index: number): string {
  const plain = new Map(item.plain.map((figure) => [figure.id, figure]));
  const rows = item.figures.map((figure) => {
    const limit = limitText(figure.id, figure.limit);
    const before = plain.get(figure.id);
    return `<tr><td>${escape(figure.name)}</td><td class="n">${figure.performer === null ? '' : escape(textOf({ ...figure, value: figure.performer }))}</td><td class="n">${before ? escape(textOf(before)) : ''}</td><td class="n ${figure.mark}">${escape(textOf(figure))}</td><td class="${figure.mark}">${MARKS[figure.mark]}</td><td>${escape(limit)}</td><td>${escape(figure.words)}${figure.frame === null ? '' : ` (frame ${figure.frame + 1})`}</td></tr>`;
  });
  const { looked } = item;
  return `<h2 id="t${index}">${escape(item.take)} on ${escape(item.character)}</h2>
<p>${escape(item.fileName)}: ${item.frames} frames at ${+item.fps.toFixed(3)} a second.</p>
${looked ? looked.pictures.map(pictureSvg).join('') : ''}
<table><thead><tr><th>figure</th><th class="n">performer</th><th class="n">plain</th><th class="n">this</th><th></th><th>limits</th><th>seen</th></tr></thead><tbody>${rows.join('\n')}</tbody></table>
${item.cautions.length > 0 ? `<ul>${item.cautions.map((text) => `<li>${escape(text)}</li>`).join('')}</ul>` : ''}
${looked ? looked.series.map((series) => seriesSvg(series, looked.every)).join('') : ''}`;
}

const WIDTH = 300;
const HEIGHT = 90;

/** One quantity of both bodies over time. */
function seriesSvg({ name, unit, theirs, mine }: Series, every: number): string {
  const all = [...theirs, ...mine];
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const span = Math.max(high - low, 1e-6);
  const line = (values: readonly number[]): string =>
    values
      .map(
        (v, i) =>
          `${((i / Math.max(1, values.length - 1)) * WIDTH).toFixed(1)},${(HEIGHT - 4 - ((v - low) / span) * (HEIGHT - 8)).toFixed(1)}`,
      )
      .join(' ');
  return `<figure><svg viewBox="0 0 ${WIDTH} ${HEIGHT}" width="${WIDTH}" height="${HEIGHT}" role="img" aria-label="${escape(name)}"><polyline fill="none" stroke="#3a5a95" stroke-width="1.2" points="${line(theirs)}"/><polyline fill="none" stroke="#c2602a" stroke-width="1.2" stroke-dasharray="5 2" points="${line(mine)}"/></svg><figcaption>${escape(name)}: ${low} to ${high} ${escape(unit)}, ${(every * Math.max(0, mine.length - 1)).toFixed(1)} s; performer solid, character dashed</figcaption></figure>`;
}

/** Both bodies in one frame as shapes of a drawing: performer solid, character dashed. */
export interface PictureShape {
  readonly viewBox: string;
  readonly width: number;
  readonly height: number;
  readonly theirs: string;
  readonly mine: string;
}

/** Where the lines of a picture are drawn. */
export function pictureShape({ theirs, mine }: Pick<Picture, 'theirs' | 'mine'>): PictureShape {
  const ys = [...theirs, ...mine].filter((_, i) => i % 2 === 1);
  const [low, high] = [Math.min(0, ...ys) - 60, Math.max(500, ...ys) + 60];
  const path = (lines: readonly number[]): string => {
    let d = '';
    for (let i = 0; i + 3 < lines.length; i += 4) d += `M${lines[i]} ${high - lines[i + 1]}L${lines[i + 2]} ${high - lines[i + 3]}`;
    return d;
  };
  return {
    viewBox: `-1400 0 2800 ${high - low}`,
    width: 300,
    height: Math.round((300 * (high - low)) / 2800),
    theirs: path(theirs),
    mine: path(mine),
  };
}

/** Both bodies in one frame. */
function pictureSvg(picture: Picture): string {
  const { frame, figure } = picture;
  const { viewBox, width, height, theirs, mine } = pictureShape(picture);
  return `<figure><svg viewBox="${viewBox}" width="${width}" height="${height}" role="img" aria-label="both bodies at frame ${frame + 1}"><path d="${theirs}" fill="none" stroke="#3a5a95" stroke-width="16"/><path d="${mine}" fill="none" stroke="#c2602a" stroke-width="16" stroke-dasharray="50 16"/></svg><figcaption>${escape(figure)}, frame ${frame + 1}: from the front and the side</figcaption></figure>`;
}
