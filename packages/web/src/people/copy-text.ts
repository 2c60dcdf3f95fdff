import type { Remarks } from '../services/remarks';

/** Copies a text, and says so in given words; or that the browser did not let it. */
export async function copyText(text: string, said: string, remarks: Remarks): Promise<void> {
  try {
    await navigator.clipboard.writeText(text);
    remarks.say(said);
  } catch {
    remarks.say('The browser does not let it be copied: select it, and copy it by hand.');
  }
}
