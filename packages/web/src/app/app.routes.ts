import type { Routes } from '@angular/router';
import { Shelf } from '../shelf/shelf';

export const routes: Routes = [
  { path: '', component: Shelf, title: 'Usual Needle' },
  { path: 'box/:boxId', loadComponent: () => import('../sheet/sheet').then((file) => file.Sheet) },
  {
    path: 'read/:boxId',
    loadComponent: () => import('../sheet/sheet').then((file) => file.Sheet),
    data: { reader: true },
  },
  {
    path: 'b/:slug',
    loadComponent: () => import('../sheet/sheet').then((file) => file.Sheet),
    data: { reader: true },
  },
  {
    path: 'box/:boxId/share',
    title: 'Share · Usual Needle',
    loadComponent: () => import('../share/share').then((file) => file.SharePage),
  },
  {
    path: 'people',
    title: 'People · Usual Needle',
    loadComponent: () => import('../people/people').then((file) => file.PeoplePage),
  },
  {
    path: 'you',
    title: 'You · Usual Needle',
    loadComponent: () => import('../people/you').then((file) => file.YouPage),
  },
  {
    path: 'sign-in',
    title: 'Sign in · Usual Needle',
    loadComponent: () => import('../people/sign-in').then((file) => file.SignInPage),
  },
  {
    path: 'come/:secret',
    title: 'Come in · Usual Needle',
    loadComponent: () => import('../people/come').then((file) => file.ComePage),
  },
  {
    path: 'bring-in',
    title: 'Bring in · Usual Needle',
    loadComponent: () => import('../bring-in/bring-in').then((file) => file.BringIn),
  },
  {
    path: 'refresh/:tableId',
    title: 'Refresh · Usual Needle',
    loadComponent: () => import('../bring-in/bring-in').then((file) => file.BringIn),
  },
  {
    path: 'source/:tableId',
    title: 'Refreshes itself · Usual Needle',
    loadComponent: () => import('../sources/source-page').then((file) => file.SourcePage),
  },
  { path: 'table/:tableId/then/:then', loadComponent: () => import('../sheet/sheet').then((file) => file.Sheet) },
  { path: 'table/:tableId', loadComponent: () => import('../sheet/sheet').then((file) => file.Sheet) },
  { path: '**', loadComponent: () => import('../entry/nowhere').then((file) => file.Nowhere) },
];
