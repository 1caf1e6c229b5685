/** Where the address book lies. */
export const ADDRESS_BOOK = { domain: 'HomeDomain', path: 'Library/AddressBook/AddressBook.sqlitedb' }

/** What a labelled value of a card is (from memory). */
export const PROPERTY = { phone: 3, email: 4, address: 5, date: 12, url: 22, related: 23 } as const
