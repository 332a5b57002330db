import { EditsStore } from '../project/edits.store';
import { ItemsStore } from '../project/items.store';
import { ProjectStore } from '../project/project.store';

/** Where a spec puts one object in the place of the project, edits of rows and items go to it too. */
export const editsToProject = [
  { provide: EditsStore, useExisting: ProjectStore },
  { provide: ItemsStore, useExisting: ProjectStore },
];
