/** A picture of a page of a PDF (ISO 32000), drawn by PDF.js in a browser: paper as it comes out of a printer, its margins with it. */
import { Buffer } from 'node:buffer';
import { join } from 'node:path';
import { ROOT } from './run.mjs';

const BUILD = join(ROOT, 'node_modules/pdfjs-dist/build');
const ADDRESS = 'http://pdf.invalid/';

/** @param pdf its bytes @param width of the picture, in pixels @returns the picture as PNG, and how many pages there are */
export async function pdfPicture(browser, pdf, { number = 1, width = 794 } = {}) {
  const page = await browser.newPage();
  try {
    await page.route(`${ADDRESS}**`, (route) => {
      const name = new URL(route.request().url()).pathname.slice(1);
      return name === ''
        ? route.fulfill({ contentType: 'text/html', body: '<!doctype html><canvas></canvas>' })
        : route.fulfill({ path: join(BUILD, name), contentType: 'text/javascript' });
    });
    await page.goto(ADDRESS);
    const { data, pages } = await page.evaluate(
      async ({ bytes, number, width }) => {
        const { getDocument, GlobalWorkerOptions } = await import('/pdf.min.mjs');
        GlobalWorkerOptions.workerSrc = '/pdf.worker.min.mjs';
        const file = await getDocument({ data: Uint8Array.from(globalThis.atob(bytes), (sign) => sign.charCodeAt(0)) })
          .promise;
        const paper = await file.getPage(number);
        const viewport = paper.getViewport({ scale: width / paper.getViewport({ scale: 1 }).width });
        const canvas = globalThis.document.querySelector('canvas');
        Object.assign(canvas, { width: Math.round(viewport.width), height: Math.round(viewport.height) });
        await paper.render({ canvas, viewport }).promise;
        return { data: canvas.toDataURL('image/png').split(',')[1], pages: file.numPages };
      },
      { bytes: Buffer.from(pdf).toString('base64'), number, width },
    );
    return { png: Buffer.from(data, 'base64'), pages };
  } finally {
    await page.close();
  }
}
