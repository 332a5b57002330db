import { provideHttpClient, withFetch, withInterceptors } from '@angular/common/http';
import { inject, provideBrowserGlobalErrorListeners, provideEnvironmentInitializer, type ApplicationConfig } from '@angular/core';
import { provideRouter, TitleStrategy, withComponentInputBinding } from '@angular/router';
import { sayClient } from './api/api.service';
import { SeveralStore } from './gather/several.store';
import { routes } from './routes';
import { RunsStore } from './runs/runs.store';
import { StationTitle } from './shell/station-title';

export const appConfig: ApplicationConfig = {
  providers: [
    provideBrowserGlobalErrorListeners(),
    provideHttpClient(withFetch(), withInterceptors([sayClient])),
    // Steps that were done before the page was loaded again are undone by these, wherever one is then.
    provideEnvironmentInitializer(() => [RunsStore, SeveralStore].forEach((store) => void inject<unknown>(store))),
    provideRouter(routes, withComponentInputBinding()),
    { provide: TitleStrategy, useClass: StationTitle },
  ],
};
