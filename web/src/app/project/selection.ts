/** The take and the character that a person has chosen, by id. */
export interface Selection {
  readonly take: string | undefined;
  readonly character: string | undefined;
}

const STORED = 'hollow-stride.selection';

export function rememberSelection(selection: Selection): void {
  localStorage.setItem(STORED, JSON.stringify(selection));
}

/** The selection of the last visit. */
export function rememberedSelection(): Selection {
  try {
    const value = JSON.parse(localStorage.getItem(STORED) ?? '{}') as Partial<Selection>;
    return { take: value.take, character: value.character };
  } catch {
    return { take: undefined, character: undefined };
  }
}
