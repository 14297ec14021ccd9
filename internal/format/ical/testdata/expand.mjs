// Expands the calendars of a JSON array with ical.js, and prints for each the starts of its events in UTC, in order.
import ICAL from '../../../../web/node_modules/ical.js/dist/ical.js'
import { readFileSync } from 'node:fs'

const expand = (text) => {
  const calendar = new ICAL.Component(ICAL.parse(text))
  ICAL.TimezoneService.reset()
  for (const zone of calendar.getAllSubcomponents('vtimezone')) ICAL.TimezoneService.register(zone)
  const all = calendar.getAllSubcomponents('vevent')
  const starts = []
  for (const one of all.filter((e) => !e.hasProperty('recurrence-id'))) {
    const exceptions = all.filter(
      (e) => e.hasProperty('recurrence-id') && e.getFirstPropertyValue('uid') === one.getFirstPropertyValue('uid'),
    )
    const event = new ICAL.Event(one, { exceptions })
    const dates = event.iterator()
    for (let at = dates.next(), n = 0; at && n < 500; at = dates.next(), n++) {
      const found = event.getOccurrenceDetails(at)
      starts.push(new Date(found.startDate.toUnixTime() * 1000).toISOString().slice(0, 16) + 'Z')
    }
  }
  return starts.sort()
}

console.log(JSON.stringify(JSON.parse(readFileSync(0, 'utf8')).map(expand)))
