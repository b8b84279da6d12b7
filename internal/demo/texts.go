package demo

// Templates of the demo, and sentences its students write.
const fieldLog = `# Rock-pool field log

Go to the pools below the old slipway at low water. Take a pencil, this log and a friend.

## Before you go

- [ ] I know when low water is
- [ ] I have told somebody where I am
- [ ] I wear boots

## What you see

| pool | depth in cm | animals | plants |
| --- | --- | --- | --- |
| 1 | | | |
| 2 | | | |
| 3 | | | |

## What you think

Which pool has most life in it, and why?

`

const knotCard = `# Knot card

Tie each knot three times. Then say in your own words what it is good for.

| knot | tied | good for |
| --- | --- | --- |
| bowline | | |
| clove hitch | | |
| reef knot | | |
| sheet bend | | |

## The one that gave me trouble

`

const tideTable = `# Tide-table worksheet

Use the harbour's table for this week.

1. When is high water on Monday?
2. How much does the sea fall between high and low water?
3. When can the ferry pass the bar?

## How I found out

`

const barometer = `# Barometer diary

Read the barometer at the same time each day and write what the sky does.

| day | hPa | sky | wind |
| --- | --- | --- | --- |
| Mon | | | |
| Tue | | | |
| Wed | | | |
| Thu | | | |
| Fri | | | |

## What I notice

`

var sentences = []string{
	"The first pool was deeper than I thought and the water was quite cold.",
	"I counted eleven limpets on one stone, all in the shade.",
	"A small crab hid under the weed when my shadow fell on it.",
	"The anemones were closed where the water had gone.",
	"We measured the depth with the marked stick, twice, to be sure.",
	"In the third pool there was nothing but sand and one empty shell.",
	"I think the middle pool has most life because it never dries out.",
	"The wind came from the west and made ripples, so it was hard to see.",
	"Low water was at twenty past eleven, ten minutes after the table said.",
	"Next time I want to come earlier and bring the lens.",
	"The green weed grows only on the side that faces the harbour.",
	"My friend found two kinds of snail; one is flat and one is pointed.",
	"I drew the shape of the pool because words were not enough.",
	"The barnacles opened again when I poured some water over them.",
	"It smelled of salt and a bit of diesel from the ferry.",
}
