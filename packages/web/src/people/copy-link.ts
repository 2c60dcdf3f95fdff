import type { Remarks } from '../services/remarks';

/** Copies a link, and says whether the browser let it. */
export async function copyLink(address: string, remarks: Remarks): Promise<void> {
  try {
    await navigator.clipboard.writeText(address);
    remarks.say('The link is copied.');
  } catch {
    remarks.say('The browser does not let it be copied: select it, and copy it by hand.');
  }
}
