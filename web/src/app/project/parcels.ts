/** Most files, and bytes, that are sent in one request; a single larger file goes alone. */
const MOST_FILES = 100;
const MOST_BYTES = 64 * 1024 * 1024;

const pathOf = (file: File): string => file.webkitRelativePath || file.name;

/**
 * Puts files into parcels, each sent in one request: whole files as they come; those that may be parts of another together, and
 * with each parcel of Acclaim motions the skeletons that they may need.
 */
export function parcels(files: readonly File[]): File[][] {
  const isWhole = (file: File): boolean => /\.(bvh|glb|vrm|zip)$/i.test(file.name);
  const isMotion = (file: File): boolean => /\.amc$/i.test(file.name);
  const isSkeleton = (file: File): boolean => /\.asf$/i.test(file.name);
  const skeletons = files.filter(isSkeleton);
  const out = filled(files.filter(isWhole), []);
  const motions = filled(files.filter(isMotion), skeletons);
  out.push(...motions);
  // Without motions skeletons are characters of their own.
  const loose = files.filter((file) => !isWhole(file) && !isMotion(file) && !(isSkeleton(file) && motions.length > 0));
  const folders = new Map<string, File[]>();
  for (const file of loose) {
    const path = pathOf(file);
    const folder = path
      .slice(0, path.lastIndexOf('/') + 1)
      .split('/')
      .slice(0, 2)
      .join('/');
    folders.set(folder, [...(folders.get(folder) ?? []), file]);
  }
  // A document and its parts may lie in folders of one another: few files go together whatever their folders.
  if (loose.length > 0) out.push(...(loose.length <= MOST_FILES ? [loose] : folders.values()));
  return out;
}

function filled(files: readonly File[], beside: readonly File[]): File[][] {
  const out: File[][] = [];
  let bytes = Infinity;
  for (const file of files) {
    const last = out.at(-1);
    if (!last || bytes + file.size > MOST_BYTES || last.length >= MOST_FILES) {
      out.push([...beside, file]);
      bytes = file.size;
    } else {
      last.push(file);
      bytes += file.size;
    }
  }
  return out;
}
