/**
 * A take-away page begins here, and so does the worker that it searches in: they are one script, since the page is one file. In a
 * worker there is no document.
 */
if (typeof document === 'undefined') void import('./host.worker');
else {
  const code = document.currentScript?.textContent ?? '';
  void import('./start').then(({ start }) => start(code));
}
