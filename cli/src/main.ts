import { Command, CommanderError } from 'commander';
import { asFault, describeFault, PROGRAM } from '@hollow-stride/core';
import { backup } from './commands/backup';
import { checkCommand, type CheckOptions } from './commands/check';
import { faceCommand, type FaceOptions } from './commands/face';
import { fitCommand, type FitOptions } from './commands/fit';
import { inspect } from './commands/inspect';
import { label } from './commands/label';
import { reelCommand, type ReelOptions } from './commands/reel';
import { runCommand, type RunOptions } from './commands/run';
import { schema } from './commands/schema';
import { sendCommand, type SendOptions } from './commands/send';
import { solveCommand } from './commands/solve';
import { ordinal, rate, seconds, tolerance } from './options';
import { CONSOLE, type Output } from './output';
import { Workspace } from './workspace';

/**
 * Runs the command line.
 * @param args without the program's name
 * @returns the exit code: 0 on success, 1 when something failed, 2 when the call itself was wrong, 3 when a result is over a limit
 */
export async function run(args: readonly string[], output: Output = CONSOLE): Promise<number> {
  let code = 0;
  const workspace = new Workspace();
  const program = new Command('hollow-stride')
    .description('Transfers motion capture takes onto differently proportioned characters.')
    .version(PROGRAM.version)
    .exitOverride()
    .configureOutput({ writeOut: (text) => output.out(text.trimEnd()), writeErr: () => undefined });
  program
    .command('inspect')
    .description('say what a file holds')
    .argument('<file>')
    .option('--json', 'print JSON')
    .action((file: string, options: { json?: boolean }) => inspect(file, options, output, workspace));
  program
    .command('label')
    .description('say which joint plays which part of the body')
    .argument('<file>')
    .option('--json', 'print JSON')
    .option('--scheme <file>', 'label by a naming scheme instead of automatically')
    .option('--save-scheme <file>', 'keep the labels as a naming scheme')
    .action((file: string, options: { json?: boolean; scheme?: string; saveScheme?: string }) => label(file, options, output, workspace));
  program
    .command('solve')
    .description('carry a take over to a character')
    .requiredOption('--take <file>', 'the take: BVH, AMC beside its ASF, or GLB or glTF with an animation')
    .requiredOption('--character <file>', 'the character: GLB, glTF, VRM, BVH or ASF')
    .requiredOption('--out <file>', 'the result; .bvh or .glb says the format')
    .option('--recipe <file>', 'a pairing exported as a recipe; what is said here goes before it')
    .option('--reference <file>', 'measure the performer on this take of it, so that all its takes have one rest pose and one scale')
    .option('--clip <number>', 'which take of a file with several, from 1', ordinal)
    .option('--report <file>', 'write the figures as JSON')
    .option('--fps <number>', 'frames per second of the result', rate)
    .option('--plain', 'pose transfer and root only, nothing pinned')
    .option('--floor <place>', 'take: keep the take’s floor, scaled; zero: put the floor at height zero')
    .option('--marks', 'keep the performer’s marks on the floor instead of matching the stride')
    .option('--in-place', 'take out the travel over the floor')
    .option('--face <file>', 'a face recording: a table as CSV or JSON, or a GLB file with morph animation')
    .option('--names <file>', 'the name table: which channel drives which face shape; as the names propose by default')
    .option('--face-offset <seconds>', 'second of the take at which the recording begins', seconds)
    .option('--sound <file>', 'WAV of the same recorder: the face is laid where the clap is heard and seen')
    .option('--json', 'print the report as JSON')
    .action((options) => solveCommand(options, output, workspace));
  program
    .command('face')
    .description('say which channels of a face recording drive which shapes of a character, and write those as a table')
    .argument('<recording>')
    .requiredOption('--character <file>', 'the character: GLB, glTF or VRM with morph targets')
    .option('--names <file>', 'the name table; as the names propose by default')
    .option('--save-names <file>', 'keep what drives each shape as a name table')
    .option('--out <file>', 'the driven shapes as a table; .csv or .json says the format')
    .option('--fps <number>', 'frames per second that it was recorded at, where its file says another', rate)
    .option('--exchange', 'left and right exchanged')
    .option('--json', 'print JSON')
    .action((file: string, options: FaceOptions) => faceCommand(file, options, output, workspace));
  program
    .command('fit')
    .description('fit a skeleton to a mesh that has none, and bind its points: a character')
    .argument('<mesh>')
    .option('--out <file>', 'the character; .glb')
    .option('--landmarks <file>', 'landmarks of this mesh, or of one like it; found in the shape by default')
    .option('--save-landmarks <file>', 'keep the landmarks for the next mesh')
    .option('--fingers <number>', '0, 3 or 5')
    .option('--spine <number>', 'joints of the spine, 1 to 5')
    .option('--neck <number>', 'joints of the neck, 1 or 2')
    .option('--twists', 'joints along arms and thighs that share their twist')
    .option('--keep', 'the skeleton that the file has, its points bound anew')
    .option('--apart', 'look at each side by itself')
    .option('--json', 'print JSON')
    .action((file: string, options: FitOptions) => fitCommand(file, options, output, workspace));
  program
    .command('run')
    .description('carry many takes over to many characters: exit code 0 within the limits, 3 over one, 1 where one cannot be solved')
    .requiredOption('--takes <files...>', 'takes, or folders of them')
    .requiredOption('--characters <files...>', 'characters, or folders of them')
    .requiredOption('--out <folder>', 'where files, manifest, check sheets and recipes go')
    .option('--faces <files...>', 'face recordings, or folders of them, each named as its take')
    .option('--recipes <files...>', 'recipes, or folders of them: "take-on-character", "character" or "take" as their name, or one for all')
    .option('--format <format>', 'bvh or glb; as each character came by default')
    .option('--fps <number>', 'frames per second of the results', rate)
    .option('--tolerance <mm>', 'leave keys out of GLB files as long as hands, feet and head stay within this', tolerance)
    .option('--in-place', 'take out the travel over the floor')
    .option('--bare', 'motion on bare nodes, without meshes')
    .option('--together', 'all takes of a character in one GLB file')
    .option('--pattern <pattern>', 'file names by {take}, {character}, {fps}, {frames}, {number}')
    .option('--limits <file>', 'limits of the production as JSON')
    .option('--json', 'print the manifest as JSON')
    .action(async (options: RunOptions) => void (code = await runCommand(options, output, workspace)));
  program
    .command('reel')
    .description('play a reel: clips of characters in time, each lane a file')
    .argument('<file>')
    .requiredOption('--takes <files...>', 'takes that it plays, or folders of them')
    .requiredOption('--characters <files...>', 'characters that it plays them on, or folders of them')
    .requiredOption('--out <folder>', 'where the files go')
    .option('--recipes <files...>', 'recipes, or folders of them, named as for run')
    .option('--format <format>', 'bvh or glb; as each character came by default')
    .option('--together', 'all lanes of a character in one GLB file, as motions by their names')
    .option('--json', 'print what came of each lane as JSON')
    .action((file: string, options: ReelOptions) => reelCommand(file, options, output, workspace));
  program
    .command('check')
    .description('judge a result that is there already against its take: exit code 0 within the limits, 3 over one')
    .requiredOption('--take <file>', 'the take that it came from')
    .requiredOption('--character <file>', 'the character that it was made for')
    .requiredOption('--result <file>', 'the result')
    .option('--recipe <file>', 'the recipe that it was made by')
    .option('--clip <number>', 'which take of a file with several, from 1', ordinal)
    .option('--limits <file>', 'limits of the production as JSON')
    .option('--sheet <file>', 'write a check sheet as a page')
    .option('--json', 'print the figures as JSON')
    .action(async (options: CheckOptions) => void (code = await checkCommand(options, output, workspace)));
  program
    .command('backup')
    .description('write everything on the rack of a running Hollow Stride into one archive')
    .argument('<file>')
    .option('--server <address>', 'where it runs', `http://localhost:${process.env['HOLLOW_STRIDE_PORT'] ?? 4747}`)
    .action((file: string, options: { server: string }) => backup(file, options, output, workspace));
  program
    .command('send')
    .description('play a take into the capture desk of a running Hollow Stride, as a capture device would')
    .argument('<take>')
    .option('--server <address>', 'where it runs', `http://localhost:${process.env['HOLLOW_STRIDE_PORT'] ?? 4747}`)
    .option('--clip <number>', 'which take of a file with several, from 1', ordinal)
    .option('--fps <number>', 'frames per second that are sent; the take’s own by default', rate)
    .option('--times <number>', 'how often it is played, one after the other')
    .option('--name <name>', 'what the stream is called; the file’s name by default')
    .option('--session <session>', 'to go on with a stream that was sent before')
    .action((file: string, options: SendOptions) => sendCommand(file, options, output, workspace));
  program
    .command('schema')
    .description(
      'print the JSON Schema of a format that is written here: recipe, reel, name-table, face, landmarks, stream, check-sheet, delivery; all by default',
    )
    .argument('[format]')
    .action((format: string | undefined) => schema(format, output));
  if (args.length === 0) {
    program.outputHelp();
    return 0;
  }
  try {
    await program.parseAsync([...args], { from: 'user' });
    return code;
  } catch (error) {
    if (error instanceof CommanderError) {
      if (error.exitCode === 0) return 0;
      output.err(error.message.replace(/^error: /, 'hollow-stride: '));
      return 2;
    }
    output.err(`hollow-stride: ${describeFault(asFault(error))}`);
    return 1;
  }
}
