/**
 * Text from outside, made fit for storing and showing: lone halves of surrogate pairs become U+FFFD, control characters spaces,
 * both of which databases and file systems refuse.
 * @param keepLines true for notes, whose line breaks and tabs stay
 */
export function wellFormed(text: string, keepLines = false): string {
  const spaced = keepLines ? text.replace(/\r\n?/g, '\n').replace(/[^\P{Cc}\n\t]/gu, ' ') : text.replace(/\p{Cc}+/gu, ' ');
  return spaced.replace(/\p{Cs}/gu, '\uFFFD');
}

/** The beginning of a text, at most so many UTF-16 units, cut between what a reader takes for letters: no emoji is halved. */
export function shortened(text: string, most: number): string {
  if (text.length <= most) return text;
  let end = 0;
  // Somewhat more than is kept, so that a cluster across the end is seen whole.
  for (const { segment } of new Intl.Segmenter('en', { granularity: 'grapheme' }).segment(text.slice(0, most + 64))) {
    if (end + segment.length > most) break;
    end += segment.length;
  }
  return text.slice(0, end);
}
