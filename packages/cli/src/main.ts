/** The command line: `usual-needle find FILE [TEXT]`, `bring-in FILE` and `watch BOX [TEXT]`. Exit 0: done, or rows matched; 1: none; 2: an error. */
import { Command, CommanderError, Option } from 'commander';
import { FileProblem } from '@usual-needle/formats';
import { bringIn, type BringInOptions } from './bring-in.js';
import { find } from './find.js';
import { CHOICES, UsageProblem, type FindOptions } from './options.js';
import { watch, type WatchOptions } from './watch.js';

const several = (value: string, before: readonly string[]): string[] => [...before, value];
const oneOf = (flags: string, about: string, choices: readonly string[]): Option =>
  new Option(flags, about).choices([...choices]);

/** The option of a token. It may come from the environment, since a command line is seen by whoever lists what runs on a machine. */
const token = (): Option =>
  new Option('--token <token>', 'a token, where the server wants to know who asks').env('USUAL_NEEDLE_TOKEN');

process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 2));

const program = new Command('usual-needle').description('Search tabular records.').exitOverride();
// These are the server's own programs, which the command leads to before it comes here.
program.command('serve').description('start the server; usual-needle serve --help says how');
program.command('backup').description('back up all that a server keeps, while it runs');
program.command('restore').description('put a backup into an empty folder, or an empty PostgreSQL');
program
  .command('find')
  .description('search a file, or a box on a server')
  .argument(
    '<file>',
    'CSV, TSV, JSON, NDJSON, .xlsx or .ods, each plain or gzipped; or - for standard input; with --server number or link of a box',
  )
  .argument('[text]', 'what to find')
  .option('--strand <strand>', 'a further strand, in order: "plus: …", "minus: …", "within: …"', several, [])
  .option('--in <columns>', 'columns to search, with commas; all, if not said')
  .addOption(oneOf('--reading <reading>', 'how the text is read', CHOICES.reading))
  .addOption(oneOf('--need <need>', 'every word or any', CHOICES.need))
  .addOption(oneOf('--where <where>', 'where in the cell', CHOICES.where))
  .addOption(oneOf('--case <care>', 'case', CHOICES.care))
  .addOption(oneOf('--accents <care>', 'accents', CHOICES.care))
  .option('--pick <picker>', 'narrow: "Status=Held|Returned", "Found on=2026-01..2026-03"', several, [])
  .addOption(oneOf('--effect <effect>', 'what becomes of matches', CHOICES.effect))
  .option('--flip', 'the rows that are left out instead')
  .option('--sort <levels>', '"Found on:down,Item no.:up"')
  .option('--show <columns>', 'columns to write, with commas')
  .option('--kind <kind>', 'kind of a column: "Col=text"', several, [])
  .option('--box <file>', 'a box file to start from')
  .addOption(
    oneOf('--out <form>', 'form of the output', ['csv', 'json', 'ndjson', 'xlsx', 'html', 'page', 'count']).default(
      'csv',
    ),
  )
  .option('--to <file>', 'file that it goes to, which is there only once it is whole')
  .option('--server <address>', 'address of a server whose box is asked')
  .addOption(token())
  .option('--explain', 'say what stands in the way if nothing is found')
  .action(async (file: string, text: string | undefined, options: FindOptions) => {
    process.exitCode = await find(file, text, options);
  });
program
  .command('bring-in')
  .description('bring a file to a server, as a new table or as newer rows of one')
  .argument('<file>', 'CSV, TSV, JSON, NDJSON, .xlsx or .ods, each plain or gzipped; or - for standard input')
  .requiredOption('--server <address>', 'address of the server')
  .addOption(token())
  .option('--name <name>', 'name of the new table; by the file, if not said')
  .option('--refresh <table>', 'name or number of the table to refresh instead')
  .option('--key <column>', 'a column that tells which row is which; can be given again', several, [])
  .addOption(oneOf('--gone <fate>', 'what becomes of rows that are not in the file', ['keep', 'remove']))
  .addOption(
    oneOf('--clashes <whose>', 'of cells changed here and in the file, whose stand', ['ours', 'theirs', 'refuse']),
  )
  .addOption(oneOf('--unclear <way>', 'of rows whose key is blank or stands twice', ['refuse', 'first', 'leave']))
  .addOption(oneOf('--removed <fate>', 'what becomes of rows that were removed here', ['stay', 'back']))
  .option('--preview', 'say what a refresh would do, and do nothing')
  .action(async (file: string, options: BringInOptions) => {
    process.exitCode = await bringIn(file, options);
  });
program
  .command('watch')
  .description('write the rows of a box as they begin to match, as NDJSON, until it is stopped')
  .argument('<box>', 'name or number of a box')
  .argument('[text]', 'what to find; what the box was kept with, if not said')
  .requiredOption('--server <address>', 'address of the server')
  .addOption(token())
  .option('--show <columns>', 'columns to write, with commas')
  .option('--count <rows>', 'stop after so many rows', Number)
  .action(async (box: string, text: string | undefined, options: WatchOptions) => {
    process.exitCode = await watch(box, text, options);
  });

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? 0 : 2;
  else {
    process.exitCode = 2;
    const known = error instanceof UsageProblem || error instanceof FileProblem;
    console.error(known ? (error as Error).message : error);
  }
}
