import type { Routes } from '@angular/router';

/** One route a station; each is loaded when it is first walked to. */
export const routes: Routes = [
  { path: '', pathMatch: 'full', redirectTo: 'gather' },
  { path: 'gather', title: 'Gather', loadComponent: () => import('./gather/gather.component').then((m) => m.GatherComponent) },
  { path: 'gather/take/:id', title: 'Take', loadComponent: () => import('./gather/take/take.component').then((m) => m.TakeComponent) },
  {
    path: 'gather/depot',
    title: 'Motion depot',
    loadComponent: () => import('./gather/depot/depot.component').then((m) => m.DepotComponent),
  },
  { path: 'gather/fit', title: 'Fit', loadComponent: () => import('./fit/fit.component').then((m) => m.FitComponent) },
  {
    path: 'gather/desk',
    title: 'Capture desk',
    loadComponent: () => import('./gather/desk/desk.component').then((m) => m.DeskComponent),
  },
  { path: 'label', title: 'Label', loadComponent: () => import('./label/label.component').then((m) => m.LabelComponent) },
  { path: 'match', title: 'Match', loadComponent: () => import('./match/match.component').then((m) => m.MatchComponent) },
  { path: 'match/face', title: 'Face', loadComponent: () => import('./face/face.component').then((m) => m.FaceComponent) },
  { path: 'solve', title: 'Solve', loadComponent: () => import('./solve/solve.component').then((m) => m.SolveComponent) },
  { path: 'mend', title: 'Mend', loadComponent: () => import('./mend/mend.component').then((m) => m.MendComponent) },
  { path: 'mend/reel', title: 'Reel', loadComponent: () => import('./reel/reel.component').then((m) => m.ReelComponent) },
  { path: 'check', title: 'Check', loadComponent: () => import('./check/check.component').then((m) => m.CheckComponent) },
  { path: 'deliver', title: 'Deliver', loadComponent: () => import('./deliver/deliver.component').then((m) => m.DeliverComponent) },
  { path: '**', redirectTo: 'gather' },
];
