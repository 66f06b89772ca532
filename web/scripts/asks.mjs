// Prints what may be asked of a fit, as the API describes it: what the fields of the page are made from.
import { readFileSync } from 'node:fs'

const { schemas } = JSON.parse(readFileSync(new URL('../../docs/openapi.json', import.meta.url), 'utf8')).components
const isSaid = (field) => field.description && !field.$ref && field.type !== 'array'

function said(field) {
  const number = [field, ...(field.anyOf ?? [])].find((one) => 'minimum' in one) ?? {}
  return {
    label: field.title,
    words: field.description.replace(/\.$/, ''),
    after: field['x-after'] ?? field['x-unit'] ?? '',
    unit: field['x-unit'] ?? '',
    usual: field['x-usual'] ?? '',
    low: number.minimum ?? null,
    high: number.maximum ?? null,
    default: field.default ?? null,
    choices: field['x-choices'] ?? {},
  }
}

const fields = Object.entries(schemas.Asks.properties).filter(([, field]) => isSaid(field))
console.log(JSON.stringify(Object.fromEntries(fields.map(([name, field]) => [name, said(field)])), null, 2))
