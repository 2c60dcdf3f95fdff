/** The command line: `usual-needle find FILE [TEXT]`. Exit 0: rows matched; 1: none; 2: an error. */
import { Command, CommanderError, Option } from 'commander';
import { CsvProblem } from '@usual-needle/contract/csv';
import { find } from './find.js';
import { CHOICES, UsageProblem, type FindOptions } from './options.js';

const several = (value: string, before: readonly string[]): string[] => [...before, value];
const oneOf = (flags: string, about: string, choices: readonly string[]): Option =>
  new Option(flags, about).choices([...choices]);

process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 2));

const program = new Command('usual-needle').description('Search tabular records.').exitOverride();
program
  .command('find')
  .description('search a CSV file')
  .argument('<file>', 'CSV file in UTF-8, or - for standard input')
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
  .addOption(oneOf('--out <form>', 'form of the output', ['csv', 'json', 'ndjson', 'count']).default('csv'))
  .option('--explain', 'say what stands in the way if nothing is found')
  .action(async (file: string, text: string | undefined, options: FindOptions) => {
    process.exitCode = await find(file, text, options);
  });

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? 0 : 2;
  else {
    process.exitCode = 2;
    const known = error instanceof UsageProblem || error instanceof CsvProblem;
    console.error(known ? (error as Error).message : error);
  }
}
