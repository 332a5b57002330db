import type { Routes } from '@angular/router';

/** One route a station; each is loaded when it is first walked to. */
export const routes: Routes = [
  { path: '', pathMatch: 'full', redirectTo: 'gather' },
  { path: 'gather', title: 'Gather', loadComponent: () => import('./gather/gather.component').then((m) => m.GatherComponent) },
  { path: 'solve', title: 'Solve', loadComponent: () => import('./solve/solve.component').then((m) => m.SolveComponent) },
  { path: 'deliver', title: 'Deliver', loadComponent: () => import('./deliver/deliver.component').then((m) => m.DeliverComponent) },
  { path: '**', redirectTo: 'gather' },
];
