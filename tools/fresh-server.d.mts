export interface FreshServer {
  readonly address: string;
  readonly data: string;
  /** @param how whether its data stay, for a server that comes after it */
  stop(how?: { readonly keep?: boolean }): Promise<void>;
}

export function freshServer(before?: {
  readonly port?: number;
  readonly data?: string;
  readonly options?: readonly string[];
}): Promise<FreshServer>;
