import { toJsonSchema } from '@valibot/to-json-schema';
import type { GenericSchema } from 'valibot';
import * as contract from '@hollow-stride/contract';

/** One call of the HTTP interface, as it is described. */
interface Call {
  readonly method: 'get' | 'post' | 'put' | 'patch';
  readonly path: string;
  readonly what: string;
  readonly body?: GenericSchema;
  readonly gives?: GenericSchema;
  /** Media type of an answer that is not JSON. */
  readonly type?: string;
  readonly status?: number;
}

const CALLS: readonly Call[] = [
  { method: 'get', path: '/api/rack', what: 'everything on the rack but its takes', gives: contract.rackSchema },
  {
    method: 'get',
    path: '/api/takes',
    what: 'takes that a query finds, page by page (text, tag, order, from)',
    gives: contract.takesPageSchema,
  },
  { method: 'get', path: '/api/takes/{id}', what: 'one take', gives: contract.takeSchema },
  {
    method: 'patch',
    path: '/api/takes/{id}/settings',
    what: 'changes a take’s settings, tags or note',
    body: contract.changeTakeSchema,
    gives: contract.takeSchema,
  },
  {
    method: 'post',
    path: '/api/takes/change',
    what: 'changes many takes as one',
    body: contract.changeTakesSchema,
    gives: contract.changedTakesSchema,
  },
  {
    method: 'post',
    path: '/api/takes/label',
    what: 'labels the skeletons of takes by a naming scheme',
    body: contract.labelTakesSchema,
    gives: contract.labelledTakesSchema,
  },
  {
    method: 'post',
    path: '/api/files',
    what: 'brings files in: a multipart form with fields called "file"',
    gives: contract.uploadSchema,
    status: 201,
  },
  { method: 'get', path: '/api/files/{hash}', what: 'the content of a file', type: 'application/octet-stream' },
  {
    method: 'patch',
    path: '/api/skeletons/{id}',
    what: 'changes what is decided about a skeleton',
    body: contract.changeSkeletonSchema,
    gives: contract.skeletonSchema,
  },
  {
    method: 'put',
    path: '/api/pairings',
    what: 'keeps the settings of a pairing',
    body: contract.savePairingSchema,
    gives: contract.pairingSchema,
  },
  {
    method: 'put',
    path: '/api/transfers',
    what: 'keeps a transfer with its figures',
    body: contract.saveTransferSchema,
    gives: contract.transferSchema,
  },
  {
    method: 'post',
    path: '/api/versions',
    what: 'keeps settings of a pairing under a name',
    body: contract.saveVersionSchema,
    gives: contract.versionSchema,
    status: 201,
  },
  {
    method: 'post',
    path: '/api/sets',
    what: 'keeps touch-ups under a name',
    body: contract.saveTouchUpSetSchema,
    gives: contract.touchUpSetSchema,
    status: 201,
  },
  {
    method: 'post',
    path: '/api/poses',
    what: 'keeps a pose under a name',
    body: contract.savePoseSchema,
    gives: contract.keptPoseSchema,
    status: 201,
  },
  {
    method: 'post',
    path: '/api/joint-schemes',
    what: 'keeps a pairing joint by joint under a name',
    body: contract.saveJointSchemeSchema,
    gives: contract.jointSchemeSchema,
    status: 201,
  },
  {
    method: 'post',
    path: '/api/name-tables',
    what: 'keeps a name table of a face under a name',
    body: contract.saveNameTableSchema,
    gives: contract.keptNameTableSchema,
    status: 201,
  },
  {
    method: 'post',
    path: '/api/reels',
    what: 'puts a reel on the rack',
    body: contract.saveReelSchema,
    gives: contract.reelRowSchema,
    status: 201,
  },
  {
    method: 'patch',
    path: '/api/reels/{id}',
    what: 'changes a reel',
    body: contract.changeReelSchema,
    gives: contract.reelRowSchema,
  },
  {
    method: 'get',
    path: '/api/desk',
    what: 'the capture desk: streams that come in, the ring of eyes, the recording; /api/desk/stream takes streams over a WebSocket',
    gives: contract.deskStateSchema,
  },
  {
    method: 'post',
    path: '/api/desk/device',
    what: 'lets the ring of eyes perform a motion of the depot',
    body: contract.ringSchema,
    gives: contract.deskStateSchema,
  },
  {
    method: 'post',
    path: '/api/desk/record',
    what: 'begins to record a stream',
    body: contract.recordSchema,
    gives: contract.deskStateSchema,
    status: 201,
  },
  {
    method: 'post',
    path: '/api/desk/stop',
    what: 'ends the recording: a take on the rack',
    gives: contract.recordedSchema,
  },
  {
    method: 'post',
    path: '/api/meshes',
    what: 'puts the mesh of a character on the rack, to be given another skeleton',
    body: contract.addMeshSchema,
    gives: contract.meshSchema,
    status: 201,
  },
  {
    method: 'patch',
    path: '/api/meshes/{id}/fit',
    what: 'changes what was decided about the skeleton of a mesh',
    body: contract.changeMeshSchema,
    gives: contract.meshSchema,
  },
  {
    method: 'post',
    path: '/api/presets',
    what: 'keeps a way of writing files under a name',
    body: contract.savePresetSchema,
    gives: contract.presetSchema,
    status: 201,
  },
  {
    method: 'put',
    path: '/api/limits',
    what: 'sets the limits of the production',
    body: contract.setLimitsSchema,
    gives: contract.limitsSchema,
  },
  { method: 'get', path: '/api/runs', what: 'all runs, the newest first', gives: contract.runListSchema },
  {
    method: 'post',
    path: '/api/runs',
    what: 'starts a run: takes × characters',
    body: contract.startRunSchema,
    gives: contract.runSchema,
    status: 201,
  },
  {
    method: 'post',
    path: '/api/runs/pairs',
    what: 'how many transfers a run would have, and how many pairs it would leave out',
    body: contract.countPairsSchema,
    gives: contract.pairCountSchema,
  },
  { method: 'get', path: '/api/runs/events', what: 'what goes on in runs, as server-sent events', type: 'text/event-stream' },
  { method: 'get', path: '/api/runs/{id}', what: 'a run with a page of its items (from)', gives: contract.runItemsSchema },
  { method: 'post', path: '/api/runs/{id}/{act}', what: 'pause, resume, cancel or retry', gives: contract.runSchema },
  {
    method: 'get',
    path: '/api/runs/{id}/zip',
    what: 'the whole delivery: files, manifest, check sheets, recipes',
    type: 'application/zip',
  },
  { method: 'post', path: '/api/runs/{id}/folder', what: 'writes the delivery into the server’s folder' },
  { method: 'get', path: '/api/runs/items/{id}', what: 'an item with its whole report', gives: contract.itemWholeSchema },
  { method: 'get', path: '/api/runs/items/{id}/file', what: 'the file that an item has written', type: 'application/octet-stream' },
  {
    method: 'patch',
    path: '/api/runs/items/{id}',
    what: 'accepts an item, sends it back, notes something',
    body: contract.changeRunItemSchema,
    gives: contract.runItemSchema,
  },
  { method: 'get', path: '/api/events', what: 'what changes on the rack and in runs, as server-sent events', type: 'text/event-stream' },
  { method: 'get', path: '/api/backup', what: 'the whole rack as one archive', type: 'application/zip' },
  { method: 'get', path: '/api/health', what: 'whether the server is well' },
];

let made: object | undefined;

/** The HTTP interface as an OpenAPI 3.1 document, made from the schemas that both sides check by. */
export function openApi(): object {
  made ??= {
    openapi: '3.1.0',
    info: { title: 'Hollow Stride', version: '1', description: 'Takes, characters, pairings and runs of a Hollow Stride on this machine.' },
    paths: paths(),
    components: { schemas: { Error: schemaOf(contract.errorSchema), Conflict: schemaOf(contract.conflictSchema) } },
  };
  return made;
}

function paths(): Record<string, Record<string, object>> {
  const out: Record<string, Record<string, object>> = {};
  for (const { method, path, what, body, gives, type, status = 200 } of CALLS) {
    const content = gives ? { 'application/json': { schema: schemaOf(gives) } } : type ? { [type]: {} } : undefined;
    const parameters = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
      name,
      in: 'path',
      required: true,
      schema: { type: 'string' },
    }));
    (out[path] ??= {})[method] = {
      summary: what,
      ...(parameters.length > 0 && { parameters }),
      ...(body && { requestBody: { required: true, content: { 'application/json': { schema: schemaOf(body) } } } }),
      responses: {
        [status]: { description: what, ...(content && { content }) },
        ...(body &&
          'base' in ((body as { entries?: object }).entries ?? {}) && {
            409: {
              description: 'the edit was made from an older version of its row; `current` is what the row is now, null where it is gone',
              content: { 'application/json': { schema: { $ref: '#/components/schemas/Conflict' } } },
            },
          }),
        default: {
          description: 'a refusal with its reason',
          content: { 'application/json': { schema: { $ref: '#/components/schemas/Error' } } },
        },
      },
    };
  }
  return out;
}

/** Checks that JSON Schema has no word for are left out: the server makes them all the same. */
function schemaOf(schema: GenericSchema): object {
  const { $schema: _, ...rest } = toJsonSchema(schema as never, { errorMode: 'ignore' }) as Record<string, unknown>;
  return rest;
}
