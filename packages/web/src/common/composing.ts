/** Whether keys are being put together to a letter, as accents and many scripts are: what stands in the field meanwhile is not typed yet. */
export function isComposing(event: Event): boolean {
  return 'isComposing' in event && event.isComposing === true;
}
