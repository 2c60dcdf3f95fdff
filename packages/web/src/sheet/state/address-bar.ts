/** Tells the browser by which description a box is searched from its address bar, while the box is on show. */
export function describeToAddressBar(slug: string | undefined, name: string): void {
  document.head.querySelector('link[rel=search]')?.remove();
  if (slug === undefined) return;
  const link = document.createElement('link');
  link.rel = 'search';
  link.type = 'application/opensearchdescription+xml';
  link.title = name;
  link.href = `/api/shared/${encodeURIComponent(slug)}/opensearch.xml`;
  document.head.append(link);
}
