/** Lines, stops and depots of Larkmoor Ferries & Trams. All invented. */
export const LINES = [
  'Tram 1 Harbour',
  'Tram 2 Meadow',
  'Tram 4 Orrin',
  'Tram 7 Loop',
  'Night tram N3',
  'Ferry Red',
  'Ferry Blue',
  'Ferry Saltmarsh',
  'Funicular',
] as const;

export interface Stop {
  readonly code: string;
  readonly name: string;
  readonly town: string;
  readonly zone: string;
  readonly depot: string;
}

const NAMES = [
  'Harbour Steps',
  'Tallow Quay',
  'Sefton Halt',
  'Meadow Loop',
  'Orrin Bridge',
  'Kelder Lock',
  'Vane Street',
  'Saltmarsh',
  'Ropewalk',
  'Candlemaker Row',
  'Brückl Platz',
  'Søndre Pier',
  'Łucja Gardens',
  'Old Customs House',
  'Fishmarket',
  'Lantern Hill',
  'Upper Weir',
  'Lower Weir',
  'Copperfield Lane',
  'Quarry Gate',
  'St Aldwen’s',
  'Infirmary',
  'Bell Foundry',
  'Pumping Station',
  'Teasel Common',
  'Hollin Park',
  'Hollin Park North',
  'Dunmere',
  'Dunmere Mill',
  'Grebe Island',
  'Ferry Terminal East',
  'Ferry Terminal West',
  'Museum',
  'University Steps',
  'Botanic Garden',
  'Cinder Path',
  'Tramway Depot',
  'Larkmoor Central',
  'Larkmoor South',
  'Larkmoor Arena',
  'Velvet Mill',
  'Chandler’s Yard',
  'Rook Tower',
  'Heron Quay',
  'Marram Sands',
  'Lido',
  'Allotments',
  'Abbotsferry',
  'Abbotsferry Church',
  'Coldwell',
  'Coldwell Cross',
  'Fenwick Green',
  'Oyster Beds',
  'Signal Box',
  'Éclaire Street',
  'Niño Perdido',
  'Garten Straße',
  'Windlass',
  'Terrace Top',
  'Terrace Foot',
];

const TOWNS = ['Larkmoor', 'Larkmoor', 'Larkmoor', 'Saltmarsh', 'Dunmere', 'Abbotsferry', 'Coldwell', 'Grebe Island'];
const DEPOTS = ['Tramway Depot', 'Harbour Office', 'Dunmere Shed'];

export const STOPS: readonly Stop[] = NAMES.map((name, i) => ({
  code: `${name
    .normalize('NFKD')
    .replace(/[^A-Za-z]/g, '')
    .slice(0, 3)
    .toUpperCase()}${String(i + 1).padStart(2, '0')}`,
  name,
  town: i < 24 ? 'Larkmoor' : TOWNS[i % TOWNS.length],
  zone: String(i < 20 ? 1 : i < 40 ? 2 : 3),
  depot: DEPOTS[i % DEPOTS.length],
}));
