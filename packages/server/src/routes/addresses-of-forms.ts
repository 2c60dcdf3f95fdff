/** The address of a box's page with the ending of a form, `/b/SLUG.csv`, is that of its rows in this form. */
import { ADDRESS_FORMS } from '@usual-needle/contract';
import type { Middleware } from 'koa';

const ENDING = new RegExp(`^/b/([^/]+)\\.(${ADDRESS_FORMS.join('|')}|atom)$`);

export function addressesOfForms(): Middleware {
  return (ctx, next) => {
    const [, slug, form] = ENDING.exec(ctx.path) ?? [];
    if (slug !== undefined && (ctx.method === 'GET' || ctx.method === 'HEAD'))
      ctx.path = `/api/shared/${slug}/as/${form}`;
    return next();
  };
}
