import type { ListValue } from '@lumbrin/core/device/lists'
import type { StandInDevice } from './device.js'

type Values = { [key: string]: ListValue }

/** Told without a session; the rest is prohibited then. */
export const PUBLIC_VALUES = new Set([
  'DeviceName',
  'DeviceClass',
  'ProductType',
  'ProductVersion',
  'BuildVersion',
  'UniqueDeviceID',
  'DevicePublicKey',
  'WiFiAddress',
  'ActivationState',
])

/** What a made-up device says of itself, by domain. */
export function valuesOf(device: StandInDevice, domain: string): Values {
  return DOMAINS[domain]?.(device) ?? {}
}

const BATTERY = 64

const DOMAINS: Record<string, (device: StandInDevice) => Values> = {
  '': ({ identity, switches, publicKeyPem }) => ({
    DeviceName: identity.name,
    DeviceClass: identity.productType.startsWith('iPad') ? 'iPad' : 'iPhone',
    ProductType: identity.productType,
    ProductVersion: identity.osVersion,
    BuildVersion: '21G93',
    UniqueDeviceID: identity.udid,
    SerialNumber: `LMB${identity.udid.slice(-7)}`,
    DevicePublicKey: publicKeyPem,
    WiFiAddress: '02:00:00:00:00:01',
    ActivationState: switches.erased ? 'Unactivated' : 'Activated',
    PasswordProtected: switches.locked,
    AirplaneMode: switches.flightMode,
    TimeZone: 'Europe/Lisbon',
  }),
  'com.apple.mobile.battery': () => ({ BatteryCurrentCapacity: BATTERY, BatteryIsCharging: true }),
  'com.apple.disk_usage': ({ identity, files }) => {
    let used = 0
    for (const file of files.files()) used += file.size
    return {
      TotalDiskCapacity: identity.capacity,
      TotalDataCapacity: Math.round(identity.capacity * 0.92),
      TotalDataAvailable: Math.max(0, Math.round(identity.capacity * 0.92) - used),
    }
  },
  'com.apple.mobile.backup': () => ({ WillEncrypt: false, Version: '2.4' }),
  'com.apple.fmip': ({ switches }) => ({ IsAssociated: switches.theftLock }),
}
