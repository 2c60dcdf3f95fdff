import { expose } from 'comlink';
import { RowsHost } from './rows-host';

expose(new RowsHost());
