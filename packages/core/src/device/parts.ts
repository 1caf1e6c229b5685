/** What of a device is copied: the area that its file service shows, or all that it gives. */
export const DEVICE_PARTS = ['media', 'everything'] as const
export type DevicePart = (typeof DEVICE_PARTS)[number]
