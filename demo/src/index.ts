export { csvLines } from './csv.js';
export { claims, DEMO_ROWS, foundItems, stops, type DemoTable } from './tables.js';
