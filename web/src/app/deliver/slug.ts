/** "Quay walk on Heron" as a file's name: `quay-walk-on-heron`. */
export function slug(name: string): string {
  return (
    name
      .normalize('NFKD')
      .replace(/[^\w\s-]/g, '')
      .trim()
      .toLowerCase()
      .replace(/[\s_]+/g, '-')
      .slice(0, 100) || 'transfer'
  );
}
