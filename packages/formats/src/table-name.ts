import { LIMITS } from '@usual-needle/contract';

/**
 * The name of a table by that of its file: `claims-october.csv.gz` is Claims october.
 * @param otherwise where the name of the file says nothing
 */
export function tableName(file: string, otherwise = 'New table'): string {
  const base = file
    .replace(/(?:\.\w{1,7}){1,2}$/, '')
    .replace(/[-_]+/g, ' ')
    .trim();
  return base === '' ? otherwise : (base[0].toUpperCase() + base.slice(1)).slice(0, LIMITS.name);
}
