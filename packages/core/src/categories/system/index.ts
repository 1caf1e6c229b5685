import { fromCocoa } from '../../io/time.js'
import { numberValue, textValue } from '../../sqlite/values.js'
import { rowCategory } from '../rows.js'
import { accountsDefinition } from './definition.js'
import { accountFields } from './fields.js'

/** Accounts that were set up on the device, without their passwords. */
export const accounts = rowCategory({
  ...accountsDefinition,
  fields: accountFields,
  stores: [{ domain: 'HomeDomain', path: 'Library/Accounts/Accounts3.sqlite' }],
  tables: ['ZACCOUNT'],
  map: (row, rows) => {
    const { values } = row
    const type = rows.byId('ZACCOUNTTYPE', numberValue(values.ZACCOUNTTYPE))
    const created = fromCocoa(values.ZDATE)
    const userName = textValue(values.ZUSERNAME)
    const description = textValue(values.ZACCOUNTDESCRIPTION)
    return {
      when: created,
      title: description || userName || 'Without a name',
      text: userName,
      fields: {
        userName,
        description,
        type: textValue(type?.values.ZACCOUNTTYPEDESCRIPTION),
        owner: textValue(values.ZOWNINGBUNDLEID),
        createdAt: created?.toISOString() ?? null,
        uuid: textValue(values.ZIDENTIFIER),
      },
      whole: userName !== null,
    }
  },
  identity: ({ fields }) =>
    typeof fields.uuid === 'string'
      ? `id:${fields.uuid}`
      : `account:${fields.userName}:${fields.type}:${fields.description}`,
})
