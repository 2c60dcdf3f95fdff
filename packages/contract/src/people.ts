/** People who sign in, what each may do with which table, and how they come and go. */
import type { FromSchema } from 'json-schema-to-ts';
import { LARGEST_NUMBER } from './limits.js';
import type { TokenSummary } from './tokens.js';

/** Roles on a table: *builds* may do everything, *keeps* edits records and uses boxes. Readers have boxes, and no table. */
export const ROLES = ['builds', 'keeps'] as const;
export type Role = (typeof ROLES)[number];

/** Letters of a person's name at most. */
export const LONGEST_PERSON = 200;
/** Letters of a password. */
export const PASSWORD_LENGTH = { least: 10, most: 200 } as const;
/** Days for which an invitation works. */
export const INVITED_DAYS = 7;
/** Days for which a sign-in may last. */
export const SIGN_IN_DAYS = [1, 7, 30, 90] as const;

/** The cookie in which a page has its form token, and the header in which it says it. */
export const FORM_COOKIE = 'usual-needle-form';
export const FORM_HEADER = 'X-Usual-Needle-Form';

const nameSchema = { type: 'string', minLength: 1, maxLength: LONGEST_PERSON, pattern: '\\S' } as const;
const passwordSchema = { type: 'string', minLength: PASSWORD_LENGTH.least, maxLength: PASSWORD_LENGTH.most } as const;

export const signInSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name', 'password'],
  properties: { name: nameSchema, password: { type: 'string', maxLength: PASSWORD_LENGTH.most } },
} as const;
export type SignIn = FromSchema<typeof signInSchema>;

/** Someone to be invited, with the tables that they are to build or keep. */
export const inviteSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['name'],
  properties: {
    name: nameSchema,
    /** True for who builds everything, and looks after people. */
    everything: { type: 'boolean' },
    roles: {
      type: 'array',
      maxItems: 1000,
      items: {
        type: 'object',
        additionalProperties: false,
        required: ['table', 'role'],
        properties: { table: { type: 'integer', minimum: 1, maximum: LARGEST_NUMBER }, role: { enum: ROLES } },
      },
    },
  },
} as const;
export type Invite = FromSchema<typeof inviteSchema>;

/** A change of a person: other roles, all that they have; or that they may not sign in, or may again. */
export const personChangeSchema = {
  type: 'object',
  additionalProperties: false,
  properties: {
    everything: inviteSchema.properties.everything,
    roles: inviteSchema.properties.roles,
    disabled: { type: 'boolean' },
    /** Ends their sign-ins, wherever they are. */
    signedOut: { const: true },
  },
} as const;
export type PersonChange = FromSchema<typeof personChangeSchema>;

/** The answer to an invitation: the name to be made, where it does not have one yet, and a password. */
export const acceptSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['password'],
  properties: { name: nameSchema, password: passwordSchema },
} as const;
export type Accept = FromSchema<typeof acceptSchema>;

export const passwordChangeSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['before', 'password'],
  properties: { before: { type: 'string', maxLength: PASSWORD_LENGTH.most }, password: passwordSchema },
} as const;
export type PasswordChange = FromSchema<typeof passwordChangeSchema>;

/** The rules that hold for everybody: what somebody new starts as, and for how long a sign-in lasts. */
export const accessRulesSchema = {
  type: 'object',
  additionalProperties: false,
  required: ['newcomers', 'signInDays'],
  properties: {
    /** Somebody new reads what is shared with everyone; or keeps each table that there is, too. */
    newcomers: { enum: ['read', 'keep'] },
    signInDays: { enum: SIGN_IN_DAYS },
  },
} as const;
export type AccessRules = FromSchema<typeof accessRulesSchema>;

export const USUAL_RULES: AccessRules = { newcomers: 'read', signInDays: 30 };

/** A person as the people page lists them. */
export interface PersonSummary {
  readonly id: number;
  readonly name: string;
  readonly everything: boolean;
  readonly roles: readonly { readonly table: number; readonly role: Role }[];
  readonly disabled: boolean;
  /** When they were here last, as a date-time; null for who has not come yet. */
  readonly seen: string | null;
  /** The end of their invitation, if they have one that they did not use, as a date-time. */
  readonly invitedUntil: string | null;
}

/** A change of access, in words, as the audit list keeps it for a year. */
export interface AccessChange {
  readonly at: string;
  readonly who: string;
  readonly what: string;
}

export interface People {
  readonly people: readonly PersonSummary[];
  readonly rules: AccessRules;
  /** The tokens of all of them. */
  readonly tokens: readonly (TokenSummary & { readonly person: string })[];
  readonly changes: readonly AccessChange[];
}

/** A link that was just made. It is told once; only its hash is kept. */
export interface MadeLink {
  readonly path: string;
  /** The moment until which it works, as a date-time; null for one that works until it is renewed. */
  readonly until: string | null;
}

/** Somebody made up, as whom the demo can be looked at. */
export interface MadeUpPerson {
  /** The name of this machine by which one looks at it as them. */
  readonly host: string;
  readonly name: string;
  /** A sentence goes on so after their name. */
  readonly does: string;
}

/** The one that asks, as the server knows them. */
export interface Me {
  readonly is: 'this machine' | 'person' | 'nobody';
  readonly name: string | null;
  /** True for who builds everything, and looks after people. */
  readonly everything: boolean;
  /** True while nobody was made who could sign in. */
  readonly first: boolean;
  /** True where the server was told to let everybody do everything. */
  readonly open: boolean;
  /** The made-up people as whom the demo can be looked at; none where it cannot. */
  readonly madeUp: readonly MadeUpPerson[];
}

/** An invitation, before it is used. */
export interface Invitation {
  /** Null for the first builder, who says their own. */
  readonly name: string | null;
}
