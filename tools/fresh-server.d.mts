export function freshServer(): Promise<{ readonly address: string; stop(): Promise<void> }>;
