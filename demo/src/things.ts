/** What people leave behind, and the words in which finders write it down. All invented. */
export interface Thing {
  readonly category: string;
  /** How often, relative to the others. */
  readonly weight: number;
  readonly shelf: string;
  readonly nouns: readonly string[];
  readonly befores: readonly string[];
  readonly details: readonly string[];
  readonly colours: readonly string[];
  readonly marks: readonly string[];
  readonly value: readonly [number, number];
}

const CLOTH_COLOURS = [
  'black',
  'navy',
  'grey',
  'dark green',
  'red',
  'cream',
  'brown',
  'mustard',
  'purple',
  'red / white',
  'tartan',
  'light blue',
  'pink',
];
const HARD_COLOURS = ['black', 'silver', 'grey', 'white', 'blue', 'red', 'green', 'rose', 'clear'];

export const THINGS: readonly Thing[] = [
  {
    category: 'Umbrellas', weight: 15, shelf: 'U',
    nouns: ['umbrella', 'umbrella', 'umbrella', 'folding umbrella', 'parasol', 'golf umbrella'],
    befores: ['old', 'child’s', 'gentleman’s', 'lady’s', 'large', 'telescopic', 'see-through', 'walking', 'beach', ''],
    details: ['wooden crook handle', 'cherrywood handle', 'wood handle, tartan', 'with duck’s head', 'rosewood, silver band', 'lace trim', 'frog pattern', 'one rib broken', 'torn at the edge', 'clear dome', 'brass collar', 'bamboo handle', 'automatic, button stuck', 'driftwood grip', 'in sleeve', 'golf size', 'short', 'polka dots', 'carved wooden parrot', 'wrist loop missing', 'oak stick, rubber tip', 'two-tone canopy'],
    colours: ['black', 'navy', 'green', 'red / white', 'cream', 'tartan', 'clear', 'blue', 'brown', 'grey', 'yellow'],
    marks: ['initials {ini}', 'name tape, “{sur}”', 'club crest', 'silver band, engraved {ini}', 'sticker “Room {n}”', 'tag {n}'], value: [5, 60],
  },
  {
    category: 'Phones & electronics', weight: 16, shelf: 'E',
    nouns: ['mobile phone', 'phone', 'tablet', 'earbuds in case', 'headphones', 'e-reader', 'charger', 'power bank', 'camera', 'laptop', 'smart watch'],
    befores: ['cracked', 'small', 'old', 'new-looking', 'locked', 'switched off', ''],
    details: ['cracked screen', 'in leather case', 'wallet case with cards', 'lock screen shows a dog', 'battery flat', 'charging cable attached', 'one earbud missing', 'sticker of a whale on the back', 'wooden case', 'rings every morning', 'no SIM', 'engraved on the back', 'in a sock', 'strap torn'],
    colours: HARD_COLOURS,
    marks: ['S/N {L4}-{d5}', 'serial {L2}{d6}', 'SN {d3}{L1}{d4}', 'asset tag {L2}-{d4}', 'sticker “property of {sur}”', 'S/N {L4}-{d5}'], value: [20, 900],
  },
  {
    category: 'Bags & cases', weight: 14, shelf: 'B',
    nouns: ['rucksack', 'backpack', 'handbag', 'tote bag', 'suitcase', 'briefcase', 'sports bag', 'laptop bag', 'shopping bag', 'satchel', 'violin case'],
    befores: ['small', 'large', 'leather', 'canvas', 'heavy', 'worn', 'child’s', 'wheeled', ''],
    details: ['side pocket torn', 'contains gym kit', 'contains library books', 'broken zip', 'lunch box inside', 'packed for a weekend', 'wooden toggles', 'badge from Dunmere Mill', 'one wheel missing', 'smells of fish', 'empty', 'two keys in the front pocket', 'with wet swimming things', 'combination lock', 'luggage tag unreadable'],
    colours: CLOTH_COLOURS,
    marks: ['luggage tag {L3}-{d4}', 'label: {sur}', 'name tape, “{sur}”', 'tag {n}', 'initials {ini}'], value: [10, 300],
  },
  {
    category: 'Clothing', weight: 20, shelf: 'C',
    nouns: ['scarf', 'glove', 'pair of gloves', 'woolly hat', 'coat', 'raincoat', 'jumper', 'cardigan', 'school blazer', 'baseball cap', 'single shoe', 'child’s mitten', 'fleece', 'waistcoat'],
    befores: ['knitted', 'leather', 'child’s', 'long', 'striped', 'hand-made', 'wool', 'fleece-lined', ''],
    details: ['left hand', 'right hand', 'wooden buttons', 'size {n}', 'name inside', 'hole in the elbow', 'smells of woodsmoke', 'fringe', 'torn lining', 'as new', 'school crest', 'pom-pom missing', 'cashmere', 'paw prints', 'paint on the sleeve', 'ticket in the pocket'],
    colours: CLOTH_COLOURS,
    marks: ['name tape, “{sur}”', 'laundry mark {d4}', 'label: {sur}', 'initials {ini}', 'class {d1}{L1}'], value: [3, 150],
  },
  {
    category: 'Keys', weight: 9, shelf: 'K',
    nouns: ['bunch of keys', 'single key', 'door key', 'car key', 'locker key', 'bicycle lock key', 'key fob'],
    befores: ['small', 'large', 'brass', 'rusty', 'three', ''],
    details: ['on a lanyard', 'wooden keyring', 'with bottle opener', 'with a felt mouse', 'five keys', 'cord knotted', 'shaped like a fish', 'with torch', 'plastic number disc', 'red ribbon', 'with café loyalty tag'],
    colours: ['brass', 'silver', 'grey', 'black', ''],
    marks: ['no. {d4}', 'fob {L2}-{d3}', 'stamped {d3}{L1}', 'tag {n}', 'disc {d3}'], value: [0, 20],
  },
  {
    category: 'Wallets & papers', weight: 10, shelf: 'W',
    nouns: ['wallet', 'purse', 'card holder', 'passport', 'travel card', 'driving licence', 'envelope', 'folder of papers', 'notebook', 'student card'],
    befores: ['leather', 'worn', 'small', 'zipped', 'thick', 'folded', ''],
    details: ['no cash', 'contains {n} in coins', 'photo of two children', 'receipts from a bakery', 'expired', 'in the name of {name}', 'sheet music', 'handwritten, in Polish', 'stamped Søndre Pier', 'library ticket inside', 'letters tied with string', 'wet'],
    colours: ['black', 'brown', 'red', 'tan', 'navy', 'green', ''],
    marks: ['card no. ends {d4}', 'in the name of {name}', 'initials {ini}', 'ref {L2}{d5}', 'doc. {L1}{d7}'], value: [0, 200],
  },
  {
    category: 'Books & toys', weight: 8, shelf: 'T',
    nouns: ['paperback', 'library book', 'picture book', 'teddy bear', 'toy tram', 'jigsaw', 'doll', 'soft rabbit', 'box of crayons', 'board game', 'kite'],
    befores: ['well-loved', 'second-hand', 'wooden', 'one-eyed', 'knitted', 'large print', ''],
    details: ['ear missing', 'dedication on first page', 'overdue since March', 'pieces missing', 'wood, painted', 'in gift wrap', 'wet', 'bookmark at page {n}', 'hums when squeezed', 'signed by the author', 'bite marks', 'label: please return to {sur}'],
    colours: ['brown', 'yellow', 'blue', 'grey', 'multicoloured', 'pink', ''],
    marks: ['library no. {d6}', 'name inside: {name}', 'barcode {d7}', 'tag {n}'], value: [1, 40],
  },
  {
    category: 'Glasses & jewellery', weight: 7, shelf: 'G',
    nouns: ['glasses', 'reading glasses', 'sunglasses', 'ring', 'earring', 'bracelet', 'necklace', 'wristwatch', 'brooch', 'hearing aid'],
    befores: ['gold-coloured', 'silver', 'thin', 'heavy', 'tortoiseshell', 'mahogany-framed', ''],
    details: ['in hard case', 'one lens missing', 'arm broken', 'inscribed inside', 'clasp broken', 'stone missing', 'strap worn', 'stopped at ten past four', 'with chain', 'case from an optician in Coldwell', 'wooden frame'],
    colours: ['gold', 'silver', 'black', 'brown', 'mahogany', 'tortoiseshell', 'green'],
    marks: ['engraved “{name}”', 'engraved {ini}', 'hallmark worn', 'no. {d6}', 'inside: {d2}.{d2}.19{d2}'], value: [10, 1500],
  },
  {
    category: 'Sports & instruments', weight: 6, shelf: 'S',
    nouns: ['tennis racket', 'football', 'yoga mat', 'bicycle helmet', 'skateboard', 'guitar', 'flute in case', 'hockey stick', 'fishing rod', 'swimming goggles', 'walking stick', 'crutch'],
    befores: ['wooden', 'half-size', 'second-hand', 'inflatable', 'signed', ''],
    details: ['grip tape worn', 'rosewood fingerboard', 'string broken', 'strap torn', 'stickers all over', 'in soft case', 'needs air', 'ash wood', 'left-handed', 'ferrule missing', 'reflective band'],
    colours: ['black', 'blue', 'red', 'natural', 'white', 'green', 'mahogany'],
    marks: ['club no. {d3}', 'frame no. {L2}{d5}', 'name tape, “{sur}”', 'S/N {L4}-{d5}', 'initials {ini}'], value: [5, 600],
  },
  {
    category: 'Odds & ends', weight: 5, shelf: 'Z',
    nouns: ['water bottle', 'lunch box', 'pushchair', 'bunch of flowers', 'potted fern', 'painting', 'set of false teeth', 'birthday cake', 'garden gnome', 'box of tools', 'wreath', 'fish tank (empty)', 'wedding hat', 'chair'],
    befores: ['half-full', 'dented', 'wrapped', 'framed', 'heavy', 'wooden', ''],
    details: ['handle loose', 'card says “for {first}”', 'still warm', 'wood frame', 'leaking', 'driver thought it was a joke', 'in newspaper', 'one leg shorter', 'with ribbon', 'address label wet', 'lid missing', 'perishable: disposed of after 2 days'],
    colours: ['', 'green', 'silver', 'mahogany', 'white', 'blue', 'multicoloured'],
    marks: ['label: {sur}', 'sticker “Room {n}”', 'tag {n}', 'batch {L1}{d4}'], value: [0, 80],
  },
]; // prettier-ignore

export const FIRST_NAMES = [
  'Łucja',
  'Søren',
  'Ines',
  'Tomasz',
  'Marit',
  'Zoë',
  'Bram',
  'Noor',
  'Édith',
  'Jürgen',
  'Aoife',
  'Ravi',
  'Siân',
  'Mirela',
  'Oskar',
  'Hana',
];
export const SURNAMES = [
  'Brückl',
  'Søndre',
  'Wood',
  'Kessel',
  'Ashdown',
  'Niño',
  'Müllner',
  'Žižka',
  'Underhay',
  'Tallow',
  'Gråberg',
  'Ó Dálaigh',
  'Quennell',
  'Strauß',
  'Pettigrew',
  'Vance',
  'Łapińska',
  'Harrowgate',
];

/** Notes a finder adds, with {stop}, {sur}, {n} and the like to be filled in. */
export const NOTES = [
  'handed in wet, left on bench', 'under seat, upper deck', 'behind ticket machine {n}', 'reported by driver', 'found by cleaner',
  'owner may be a regular', 'tram {n3}, rear door', 'on the luggage rack', 'passed on by a passenger', 'left at the kiosk',
  'carved wood, loose eye', 'bamboo and wood ferrule', 'oversize, shelf Z', 'kept dry in bag {n}', 'wood shaft, very heavy',
  'painted wood button found with it', 'seat {n}', 'fell out of the window, recovered', 'owner rang, will come', 'owner rang twice',
  'left in the waiting room at {stop}', 'two alike handed in the same day', 'no answer at the number inside', 'smells of woodsmoke',
  'driftwood keyring attached', 'given to T. Kessel at the desk', 'given to M. Lund at the desk', 'night shift', 'see claim book',
  'checked against claims, none fits', 'rings now and then', 'found on the ferry ramp', 'deck {d1}, starboard', 'wheelhouse lost-and-found box',
  'handed in at {stop} by a child', 'stuck behind the heater', 'dropped between platform and tram', 'fire brigade found it',
  'tide line, sandy', 'asked for again on {day}',
]; // prettier-ignore

export const SECOND_LINES = [
  'Second check: {n} days later, still here.', 'Photographed.', 'Do not open.', 'Label re-written, first one wet.', 'Moved from shelf {L1}{d1}.',
  'Caller described it well, could not come.', 'Please keep apart from the other one.', 'Claimant: {name}, no papers.',
]; // prettier-ignore

export const STATUSES = ['Held', 'Returned', 'Given to charity', 'Disposed', 'Police'] as const;
