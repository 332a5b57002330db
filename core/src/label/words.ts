import type { Finger } from './roles';

/** Parts of a body that a name may speak of. */
export type NamePart =
  | 'ground'
  | 'hips'
  | 'spine'
  | 'neck'
  | 'head'
  | 'clavicle'
  | 'upperArm'
  | 'lowerArm'
  | 'hand'
  | 'upperLeg'
  | 'lowerLeg'
  | 'hock'
  | 'fetlock'
  | 'foot'
  | 'toes'
  | 'prop';

/** Words for body parts in many languages, without the marks on letters. A word may fit more than one part; the chain decides between them. */
export const WORDS: readonly (readonly [RegExp, Partial<Record<NamePart, number>>])[] = [
  [
    /^(root|ground|reference|world|origin|trajectory|motion|master|wurzel|boden|racine|raiz|radice|grond|armature|scene|scale|origo$|golv$|podloga$|zemin$|yuka$|pol$|lattia$)/,
    { ground: 1 },
  ],
  [
    /pelvis|sacrum|oscoxae|^hips|^hip$|becken|bekken|quadril|bassin|bacino|huefte?n?$|hufte?n?$|hoft(er)?$|backen$|miednica|kalca|^taz$|lantio|caderas?$|hanches?$|anche$|koshi|cog$|^cent(er|re)ofmass/,
    { hips: 1 },
  ],
  [
    /spine|spinal|backbone|vertebra|wirbel|thorac|kregoslup|omurga|pozvon|selk[ae]|^selan|ryggrad|^rygg|colonne|columna|espalda|schiena|spina|sebone|lumbar|lendow|^lowback|lowerback|^back|ruecken|rucken|^dos|coluna|ruggengraat|^rug$|^spn$|^spi$/,
    { spine: 1 },
  ],
  [
    /abdomen|^ab$|^abs$|belly|waist|torso|chest|thorax|ribs?$|ribcage|brust|poitrine|buste|pecho|petto|torse|mune|bauch|ventre|trunk|rumpf|sternum|body|stomach|taille|upperbody/,
    { spine: 0.8 },
  ],
  [/neck|hals|nacke|^nek|atlas$|szyja|boyun|sheya|kaula|^cou$|cuello|collo|(?<!ashi|te)kubi|cervic|nuque|pescoco|^nck$/, { neck: 1 }],
  [/head|kopf|tete$|cabeza|testa$|atama|skull|cranium|schaedel|hoofd|cabeca|^hd$|^hed$|huvud|glowa|^kafa|golova|^paa$/, { head: 1 }],
  [
    /clav|collar|sleutelbeen|schluessel|schlussel|scapula|claviula|clavicola|sakotsu|shoulderblade|^clv$|nyckelben|obojczyk|kopruc|klyuch|solisluu|innershoulder/,
    { clavicle: 1 },
  ],
  [/shoulder|shldr|schulter|epaule|hombro|spalla|kata$|^sh[lod]$/, { clavicle: 0.6, upperArm: 0.55 }],
  [
    /upperarm|uparm|bovenarm|armupper|armup|humer|oberarm|brasup|hautbras|brazosup|bracciosup|arriba|shldrbend|jouwan|overarm|^ramie|ustkol|^plech|olkavar/,
    { upperArm: 1 },
  ],
  [
    /forearm|lowerarm|onderarm|loarm|lowarm|armlower|armlow|unterarm|avantbras|antebra|radius|^ulna|avambraccio|zenwan|underarm|przedram|onkol|predplech|kyynarvar/,
    { lowerArm: 1 },
  ],
  [/elbow|ell?enbogen|ellbogen|coude|codo|gomito|hiji|^elb$|lokiec|dirsek|lokot|kyynarpaa/, { lowerArm: 0.9 }],
  [/wrist|handgelenk|poignet|muneca|polso|tekubi|^carp|^wri$|handled|nadgarst|bilek|zapyast|ranne/, { hand: 0.8 }],
  [/hand|^main|^mano|^mao$|^hnd$|^dlon|^el$|^te$|^kist|^kasi$/, { hand: 0.95 }],
  [/palm/, { hand: 0.6 }],
  [/^arm|arm$|^bras|brazo|braccio|^braco|^ude/, { upperArm: 0.6, lowerArm: 0.3 }],
  [
    /thigh|upleg|bovenbeen|^coxa|upperleg|legupper|legup|femur|oberschenkel|cuisse|muslo|coscia|momo|hautjambe|^thi$|^lar(et)?$|^udo|uyluk|ustbacak|bedro|reisi/,
    { upperLeg: 1 },
  ],
  [/^hip|hip$|hipjoint|huefte|hufte|hanche|cadera|^anca/, { upperLeg: 0.6 }],
  [/knee|knie|genou|rodilla|ginocchio|hiza|patella|^kne$|kolan|^diz|kolen|polvi/, { lowerLeg: 0.95 }],
  [
    /calf|shin|onderbeen|^canela|lowerleg|loleg|lowleg|leglower|leglow|tibia|unterschenkel|mollet|pantorrilla|stinco|sune|crus|fibula|underben|^vad(en)?$|podudz|golen|baldir|altbacak|^saari/,
    { lowerLeg: 1 },
  ],
  [/^leg|leg$|bein|jambe|pierna|gamba/, { lowerLeg: 0.6, upperLeg: 0.5 }],
  [/hock|sprunggelenk|cannon/, { hock: 1 }],
  [/fetlock|pastern|fessel|paturon|nodello|menudillo|boleto/, { fetlock: 1 }],
  [/metatars|calcane/, { hock: 0.7, foot: 0.4 }],
  [/ankle|^ank$|talus|astragal|tarsus|knoe?chel|vrist$|kostk|bilegi|nilkka|cheville|tobillo|caviglia|ashikubi/, { foot: 0.9 }],
  [/foot|fuss|voet|^pe$|^ft$|^pied|^pie$|piede|ashi$|^fot(en)?$|stopa|^ayak|jalkat|^jalka$/, { foot: 1 }],
  [
    /toe|^ball|zehe|orteil|^te?en(en)?$|dedospe$|dedopie|dedodelpie|dito|tsumasaki|instep|^tar(na)?$|phalan|hallux|palcestop|palcow|ayakparma|^noski?$|varpa/,
    { toes: 1 },
  ],
  [/prop|weapon|lantern|^tool|^item|attach|holder|socket|^pole|target|ctrl|control|helper/, { prop: 0.6 }],
];

export const FINGER_WORDS: readonly (readonly [RegExp, Finger])[] = [
  [/thumb|^thu$|pollex|tumme|kciuk|basparma|bolshoi|bolshoy|peukalo|daumen|duim|polegar|^thm|pouce|pulgar|pollice|oyayubi/, 'thumb'],
  [
    /index|^ind$|pekfinger|wskazuj|isaretparma|ukazat|etusorm|pointer|wijsvinger|^idx|zeigefinger|indice|hitosashi|forefinger|fore$/,
    'index',
  ],
  [/middle|medius|langfinger|srodkow|ortaparma|sredn|keskisorm|mittel|middel|majeur|medio|nakayubi|^mid|finger(mid)|mid$/, 'middle'],
  [/ring|^rin$|annular|serdeczn|yuzuk|bezym|nimeto|^rng|annulaire|anular|anulare|kusuriyubi/, 'ring'],
  [
    /pinky|pinkie|^pink$|^pnk|minim[ou]|^pin$|lillfinger|^mal[ya]$|serce|mizin|pikkusorm|little|kleiner|auriculaire|menique|mignolo|koyubi|small/,
    'little',
  ],
];

export const LEFT =
  /^(left|links?|linke[rs]?|gauche|izquierd[ao]|izq|esquerd[ao]|esq|sinistr[ao]|sx|hidari|vanster|lew[aey]|sol|lev(aya|oye|iy|yy?)|vasen|venstre|lft|lf|lt)$/;
export const RIGHT =
  /^(right|rechts?|rechte[rs]?|droite?|derech[ao]|der|direit[ao]|dir|destr[ao]|dx|migi|hoger|praw[aey]|sag|prav(aya|oye|iy|yy?)|oikea|hoyre|hojre|rgt|rt)$/;
export const LEFT_START = /^(left|links|linke[rs]?|gauche|izquierd[ao]|esquerd[ao]|sinistr[ao]|hidari|vanster|vasen)(?=[a-z]{2})/;
export const RIGHT_START = /^(right|rechts|rechte[rs]?|droite?|derech[ao]|direit[ao]|destr[ao]|migi|hoger|oikea)(?=[a-z]{2})/;
export const LEFT_END = /(left|links|gauche|izquierd[ao]|esquerd[ao]|sinistr[ao])$/;
export const RIGHT_END = /(right|rechts|droite?|derech[ao]|direit[ao]|destr[ao])$/;
