// Written by scripts/units.mjs. This product includes all or a portion of the UCUM table, UCUM codes, and UCUM definitions, copyright 1995-2009, Regenstrief Institute, Inc. and the
// Unified Codes for Units of Measures (UCUM) Organization. All rights reserved; used under the license at https://ucum.org/license.

/** What the atoms of UCUM are called, one a line: code, name, synonyms. Only what searches for units loads it. */
export const ucumNames = String.raw`
m|meter|meters; metres; distance
s|second - time|seconds
g|gram|grams; gm
rad|radian|radians
K|degree Kelvin|Kelvin; degrees
C|coulomb|coulombs
cd|candela|candelas
10*|the number ten for arbitrary powers|10^; 10 to the arbitrary powers
10^|the number ten for arbitrary powers|10*; 10 to the arbitrary power
[pi]|the number pi|π
%|percent|percents
[ppth]|parts per thousand|ppth; 10^-3
[ppm]|parts per million|ppm; 10^-6
[ppb]|parts per billion|ppb; 10^-9
[pptr]|parts per trillion|pptr; 10^-12
mol|mole|moles
sr|steradian - solid angle|square radian; rad2; rad^2
Hz|hertz|Herz; frequency; frequencies
N|newton|Newtons
Pa|pascal|pascals
J|joule|joules
W|watt|watts
A|Ampere|Amperes
V|volt|volts
F|farad|farads; electric capacitance
Ohm|ohm|Ω; resistance; ohms
S|siemens|Reciprocal ohm; mho; Ω−1; conductance
Wb|weber|webers
Cel|degree Celsius|°C; degrees
T|tesla|Teslas
H|henry|henries; inductance
lm|lumen|lumens
lx|lux|illuminance; luxes
Bq|becquerel|activity; radiation; becquerels
Gy|gray|absorbed doses; ionizing radiation doses; kerma; grays
Sv|sievert|sieverts; radiation dose quantities; equivalent doses; effective dose; operational dose; committed dose
deg|degree - plane angle|°; degree of arc; arc degree; arcdegree; angle
gon|gon|gon (grade); gons
'|arc minute|arcminutes; arcmin; arc minutes; arc mins
''|arc second|arcseconds; arcsecs
l|Liters|cubic decimeters; decimeters cubed; decimetres; dm3; dm^3; litres; liters, LT
L|Liters|cubic decimeters; decimeters cubed; decimetres; dm3; dm^3; litres; liters, LT
ar|are|100 m2; 100 m^2; 100 square meter; meters squared; metres
min|minute|minutes
h|hour|hours; hrs; age
d|day|days; age; dy; 24 hours; 24 hrs
a_t|tropical year|solar years; a tropical; years
a_j|mean Julian year|mean Julian yr; a julian; years
a_g|mean Gregorian year|mean Gregorian yr; a gregorian; years
a|year|years; a; yr, yrs; annum
wk|week|weeks; wks
mo_s|synodal month|Moon; synodic month; lunar month; mo-s; mo s; months; moons
mo_j|mean Julian month|mo-julian; mo Julian; months
mo_g|mean Gregorian month|months; month-gregorian; mo-gregorian
mo|month|months; duration
t|metric ton|tonnes; megagrams; tons
bar|bar|bars
u|unified atomic mass unit|unified atomic mass units; amu; Dalton; Da
AU|astronomic unit|AU; units
pc|parsec|parsecs
[c]|velocity of light in a vacuum|speed of light
[h]|Planck constant|Planck's constant
[k]|Boltzmann constant|k; kB
[eps_0]|permittivity of vacuum - electric|ε0; Electric Constant; vacuum permittivity; permittivity of free space
[mu_0]|permeability of vacuum - magnetic|μ0; vacuum permeability; permeability of free space
[e]|elementary charge|e; q; electric charges
eV|electronvolt|Electron Volts; electronvolts
[m_e]|electron mass|electron rest mass; me
[m_p]|proton mass|mp; masses
[G]|Newtonian constant of gravitation|G; gravitational constant; Newton's constant
[g]|standard acceleration of free fall|standard gravity; g; ɡ0; ɡn
Torr|Torr|torrs
atm|standard atmosphere|reference pressure; atmos; std atmosphere
[ly]|light-year|light years; ly
gf|gram-force|Newtons; gram forces
Ky|Kayser|wavenumbers; kaysers
Gal|Gal|galileos; Gals
dyn|dyne|dynes
erg|erg|10^-7 Joules, 10-7 Joules; 100 nJ; 100 nanoJoules; 1 dyne cm; 1 g.cm2/s2
P|Poise|dynamic viscosity; poises
Bi|Biot|Bi; abamperes; abA
St|Stokes|kinematic viscosity
Mx|Maxwell|Maxwells
G|Gauss|induction; B
Oe|Oersted|H magnetic B field; Oersteds
Gb|Gilbert|Gi; Gilberts
sb|stilb|stilbs
Lmb|Lambert|luminance; lamberts
ph|phot|phots
Ci|Curie|curies
R|Roentgen|röntgen; Roentgens
RAD|radiation absorbed dose|doses
REM|radiation equivalent man|Roentgen Equivalent in Man; rems; dose equivalents
[in_i]|inch|inches; in; international inch; body height
[ft_i]|foot|ft; fts; foot; international foot; feet; international feet; height
[yd_i]|yard|international yards; yds; distance
[mi_i]|mile|international miles; mi I; statute mile
[fth_i]|fathom|international fathoms
[nmi_i]|nautical mile|nautical mile; nautical miles; international nautical mile; international nautical miles; nm; n.m.; nmi
[kn_i]|knot|kn; kt; international knots
[sin_i]|square inch|in2; in^2; inches squared; sq inch; inches squared; international
[sft_i]|square foot|ft2; ft^2; ft squared; sq ft; feet; international
[syd_i]|square yard|yd2; yd^2; sq. yds; yards squared; international
[cin_i]|cubic inch|in3; in^3; in*3; inches^3; inches*3; cu. in; cu in; cubic inches; inches cubed; cin
[cft_i]|cubic foot|ft3; ft^3; ft*3; cu. ft; cubic feet; cubed; [ft_i]3; international
[cyd_i]|cubic yard|cubic yards; cubic yds; cu yards; CYs; yards^3; yd^3; yds^3; yd3; yds3
[bf_i]|board foot|BDFT; FBM; BF; board feet; international
[cr_i]|cord|crd I; international cords
[mil_i]|mil|thou, thousandth; mils; international
[cml_i]|circular mil|circular mils; cml I; international
[hd_i]|hand|hands; international
[ft_us]|foot - US|US foot; foot US; us ft; ft us; height; visual distance; feet
[yd_us]|yard - US|US yards; us yds; distance
[in_us]|inch - US|US inches; in us; us in; inch US
[rd_us]|rod - US|US rod; US rods; rd US; US rd
[ch_us]|Gunter's chain - US|surveyor's chain; Surveyor's chain USA; Gunter’s measurement; surveyor’s measurement; Gunter's Chain USA
[lk_us]|link for Gunter's chain - US|Links for Gunter's Chain USA
[rch_us]|Ramden's chain - US|Ramsden's chain; engineer's chains
[rlk_us]|link for Ramden's chain - US|links for Ramsden's chain
[fth_us]|fathom - US|US fathoms; fathom USA; fth us
[fur_us]|furlong - US|US furlongs; fur us
[mi_us]|mile - US|U.S. Survey Miles; US statute miles; survey mi; US mi; distance
[acr_us]|acre - US|Acre USA Survey; Acre USA; survey acres
[srd_us]|square rod - US|rod2; rod^2; sq. rod; rods squared
[smi_us]|square mile - US|mi2; mi^2; sq mi; miles squared
[sct]|section|sct; sections
[twp]|township|twp; townships
[mil_us]|mil - US|thou, thousandth; mils
[in_br]|inch - British|imperial inches; imp in; br in; british inches
[ft_br]|foot - British|British Foot; Imperial Foot; feet; imp fts; br fts
[rd_br]|rod - British|British rods; br rd
[ch_br]|Gunter's chain - British|Gunter's Chain British; Gunters Chain British; Surveyor's Chain British
[lk_br]|link for Gunter's chain - British|Links for Gunter's Chain British
[fth_br]|fathom - British|British fathoms; imperial fathoms; br fth; imp fth
[pc_br]|pace - British|British paces; br pc
[yd_br]|yard - British|British yards; Br yds; distance
[mi_br]|mile - British|imperial miles; British miles; English statute miles; imp mi, br mi
[nmi_br]|nautical mile - British|British nautical miles; Imperial nautical miles; Admiralty miles; n.m. br; imp nm
[kn_br]|knot - British|British knots; kn br; kt
[acr_br]|acre|Imperial acres; British; a; ac; ar; acr
[gal_us]|gallon - US|US gallons; US liquid gallon; gal us; Queen Anne's wine gallon
[bbl_us]|barrel - US|bbl
[qt_us]|quart - US|US quarts; us qts
[pt_us]|pint - US|US pints; pint US; liquid pint; pt us; us pt
[gil_us]|gill - US|US gills; gil us
[foz_us]|fluid ounce - US|US fluid ounces; fl ozs; FO; fl. oz.; foz us
[fdr_us]|fluid dram - US|US fluid drams; fdr us
[min_us]|minim - US|min US; US min; ♏ US
[crd_us]|cord - US|US cord; US cords; crd us; us crd
[bu_us]|bushel - US|US bushels; US bsh; US bu
[gal_wi]|gallon - historical|Corn Gallon British; Dry Gallon US; Gallons Historical; Grain Gallon British; Winchester Corn Gallon; historical winchester gallons; wi gal
[pk_us]|peck - US|US pecks; US pk
[dqt_us]|dry quart - US|dry quarts; dry quart US; US dry quart; dry qt; us dry qt; dqt; dqt us
[dpt_us]|dry pint - US|dry pints; dry pint US; US dry pint; dry pt; dpt; dpt us
[tbs_us]|tablespoon - US|Tbs; tbsp; tbs us; US tablespoons
[tsp_us]|teaspoon - US|tsp; t; US teaspoons
[cup_us]|cup - US customary|cup us; us cups
[foz_m]|fluid ounce - metric|metric fluid ounces; fozs m; fl ozs m
[cup_m]|cup - US legal|cup m; metric cups
[tsp_m]|teaspoon - metric|tsp; t; metric teaspoons
[tbs_m]|tablespoon - metric|metric tablespoons; Tbs; tbsp; T; tbs m
[gal_br]|gallon- British|imperial gallons, UK gallons; British gallons; br gal; imp gal
[pk_br]|peck - British|imperial pecks; British pecks; br pk; imp pk
[bu_br]|bushel - British|British bushels; imperial; br bsh; br bu; imp
[qt_br]|quart - British|British quarts; imperial quarts; br qts
[pt_br]|pint - British|British pints; imperial pints; pt br; br pt; imp pt; pt imp
[gil_br]|gill - British|imperial gills; British gills; imp gill, br gill
[foz_br]|fluid ounce - British|British fluid ounces; Imperial fluid ounces; br fozs; imp fozs; br fl ozs
[fdr_br]|fluid dram - British|British fluid drams; fdr br
[min_br]|minim - British|min br; br min; ♏ br
[gr]|grain|gr; grains
[lb_av]|pound|avoirdupois pounds, international pounds; av lbs; pounds
[lbf_av]|pound force - US|lbfs; US lbf; US pound forces
[oz_av]|ounce|ounces; international ounces; avoirdupois ounces; av ozs
[dr_av]|Dram mass unit|Dram; drams avoirdupois; avoidupois dram; international dram
[scwt_av]|short hundredweight|hundredweights; s cwt; scwt; avoirdupois
[lcwt_av]|long hundredweight|imperial hundredweights; imp cwt; lcwt; avoirdupois
[ston_av]|short ton - US|ton; US tons; avoirdupois tons
[lton_av]|long ton - British|imperial tons; weight tons; British long tons; long ton avoirdupois
[stone_av]|stone - British|British stones; avoirdupois
[pwt_tr]|pennyweight - troy|dwt; denarius weights
[oz_tr]|ounce - troy|troy ounces; tr ozs
[lb_tr]|pound - troy|troy pounds; tr lbs
[sc_ap]|scruple|scruples; sc ap
[dr_ap]|dram - apothecary|ʒ; drachm; apothecaries drams; dr ap; dram ap
[oz_ap]|ounce - apothecary|apothecary ounces; oz ap; ap ozs; ozs ap
[lb_ap]|pound - apothecary|apothecary pounds; apothecaries pounds; ap lb; lb ap; ap lbs; lbs ap
[oz_m]|ounce - metric|metric ounces; m ozs
[lne]|line|British lines; br L; L; l
[pnt]|point (typography)|DTP points; desktop publishing point; pt; pnt
[pca]|pica (typography)|picas
[pnt_pr]|Printer's point (typography)|pnt pr
[pca_pr]|Printer's pica  (typography)|pca pr; Printer's picas
[pied]|pied|pieds du roi; Paris foot; royal; French; feet
[pouce]|pouce|historical French inches; French royal inches
[ligne]|ligne|Paris lines; lignes
[didot]|didot|Didot point; dd; Didots Point; didots; points
[cicero]|cicero|Didot's pica; ciceros; picas
[degF]|degrees Fahrenheit|°F; deg F
[degR]|degrees Rankine|°R; °Ra; Rankine
[degRe]|degrees Réaumur|°Ré, °Re, °r; Réaumur; degree Reaumur; Reaumur
cal_[15]|calorie at 15°C|calorie 15 C; cals 15 C; calories at 15 C
cal_[20]|calorie at 20°C|calorie 20 C; cal 20 C; calories at 20 C
cal_m|mean calorie|mean cals; mean calories
cal_IT|international table calorie|calories IT; IT cals; international steam table calories
cal_th|thermochemical calorie|thermochemical calories; th cals
cal|calorie|gram calories; small calories
[Cal]|nutrition label Calories|food calories; Cal; kcal
[Btu_39]|British thermal unit at 39°F|BTU 39F; BTU 39 F; B.T.U. 39 F; B.Th.U. 39 F; BThU 39 F; British thermal units
[Btu_59]|British thermal unit at 59°F|BTU 59 F; BTU 59F; B.T.U. 59 F; B.Th.U. 59 F; BThU 59F; British thermal units
[Btu_60]|British thermal unit at 60°F|BTU 60 F; BTU 60F; B.T.U. 60 F; B.Th.U. 60 F; BThU 60 F; British thermal units 60 F
[Btu_m]|mean British thermal unit|BTU mean; B.T.U. mean; B.Th.U. mean; BThU mean; British thermal units mean
[Btu_IT]|international table British thermal unit|BTU IT; B.T.U. IT; B.Th.U. IT; BThU IT; British thermal units IT
[Btu_th]|thermochemical British thermal unit|BTU Th; B.T.U. Th; B.Th.U. Th; BThU Th; thermochemical British thermal units
[Btu]|British thermal unit|BTU; B.T.U.; B.Th.U.; BThU; British thermal units
[HP]|horsepower - mechanical|imperial horsepowers
tex|tex|linear mass density; texes
[den]|Denier (linear mass density)|den; deniers
m[H2O]|meter of water column|mH2O; m H2O; meters of water column; metres; pressure
m[Hg]|meter of mercury column|mHg; m Hg; meters of mercury column; metres; pressure
[in_i'H2O]|inch of water column|inches WC; inAq; in H2O; inch of water gauge; iwg; pressure
[in_i'Hg]|inch of mercury column|inHg; in Hg; pressure; inches
[PRU]|peripheral vascular resistance unit|peripheral vascular resistance units; peripheral resistance unit; peripheral resistance units; PRU
[wood'U]|Wood unit|hybrid reference units; HRU; mmHg.min/L; vascular resistance
[diop]|diopter (lens)|diopters; diop; dioptre; dpt; refractive power
[p'diop]|prism diopter (magnifying power)|diopters; dioptres; p diops; pdiop; dpt; pdptr; Δ; cm/m; centimeter per meter; centimetre; metre
%[slope]|percent of slope|% slope; %slope; percents slopes
[mesh_i]|mesh|meshes
[Ch]|French (catheter gauge) |Charrières, French scales; French gauges; Fr, Fg, Ga, FR, Ch
[drp]|drop - metric (1/20 mL)|drop dosing units; metric drops; gtt
[hnsf'U]|Hounsfield unit|HU; units
[MET]|Metabolic Equivalent of Task |metabolic equivalents
[hp'_X]|homeopathic potency of decimal series (retired)
[hp'_C]|homeopathic potency of centesimal series (retired)
[hp'_M]|homeopathic potency of millesimal series (retired)
[hp'_Q]|homeopathic potency of quintamillesimal series (retired)
[hp_X]|homeopathic potency of decimal hahnemannian series
[hp_C]|homeopathic potency of centesimal hahnemannian series
[hp_M]|homeopathic potency of millesimal hahnemannian series
[hp_Q]|homeopathic potency of quintamillesimal hahnemannian series
[kp_X]|homeopathic potency of decimal korsakovian series
[kp_C]|homeopathic potency of centesimal korsakovian series
[kp_M]|homeopathic potency of millesimal korsakovian series
[kp_Q]|homeopathic potency of quintamillesimal korsakovian series
eq|equivalent|equivalents
osm|osmole|osmoles; osmols
[pH]|pH|pH scale
g%|gram percent|gram %; gram%; grams per deciliter; g/dL; gm per dL; gram percents
[S]|Svedberg unit|Sv; 10^-13 seconds; 100 fs; 100 femtoseconds
[HPF]|high power field (microscope)|HPF
[LPF]|low power field (microscope)|LPF; fields
kat|katal|mol/secs; moles per second; mol*sec-1; mol*s-1; mol.s-1; katals; catalytic activity; enzymatic; enzyme units; activities
U|enzyme unit|micromoles per minute; umol/min; umol per minute; umol min-1; enzymatic activity; enzyme activity
[iU]|international unit - arbitrary|international units; IE; F2
[IU]|international unit - arbitrary|international units; IE; F2
[arb'U]|arbitary unit|arbitary units; arb units; arbU
[USP'U]|United States Pharmacopeia unit|USP U; USP'U
[GPL'U]|GPL unit|GPL Units; GPL U; IgG anticardiolipin units; IgG Phospholipid
[MPL'U]|MPL unit|MPL units; MPL U; MPL'U; IgM anticardiolipin units; IgM Phospholipid Units
[APL'U]|APL unit|APL units; APL U; IgA anticardiolipin; IgA Phospholipid; biologic activity of
[beth'U]|Bethesda unit|BU
[anti'Xa'U]|anti factor Xa unit|units
[todd'U]|Todd unit|units
[dye'U]|Dye unit|units
[smgy'U]|Somogyi unit|Somogyi units; smgy U
[bdsk'U]|Bodansky unit
[ka'U]|King-Armstrong unit|King-Armstrong Units; King units
[knk'U]|Kunkel unit
[mclg'U]|Mac Lagan unit|galactose index; galactose tolerance test; thymol turbidity test unit; mclg U; units; indexes
[tb'U]|tuberculin unit|TU; units
[CCID_50]|50% cell culture infectious dose|CCID50; 50% cell culture infective doses
[TCID_50]|50% tissue culture infectious dose|TCID50; 50% tissue culture infective dose
[EID_50]|50% embryo infectious dose|EID50; 50% embryo infective doses; EID50 Egg Infective Dosage
[PFU]|plaque forming units|PFU
[FFU]|focus forming units (cells)|FFU
[CFU]|colony forming units|CFU
[IR]|index of reactivity (allergen)|IR; indexes
[BAU]|bioequivalent allergen unit|BAU; Bioequivalent Allergy Units; bioequivalent allergen units
[AU]|allergy unit|allergy units; allergen units; AU
[Amb'a'1'U]|allergen unit for Ambrosia artemisiifolia|Amb a 1 unit; Antigen E; AgE U; allergen units
[PNU]|protein nitrogen unit (allergen testing)|protein nitrogen units; PNU
[Lf]|Limit of flocculation|Lf doses
[D'ag'U]|D-antigen unit (polio)|DAgU; units
[FEU]|fibrinogen equivalent units|FEU
[ELU]|ELISA unit|Enzyme-Linked Immunosorbent Assay Units; ELU; EL. U
[EU]|Ehrlich units (urobilinogen)|EU/dL; mg{urobilinogen}/dL
Np|neper|nepers
B|bel|bels
B[SPL]|bel sound pressure|bel SPL; B SPL; sound pressure bels
B[V]|bel volt|bel V; B V; volts bels
B[mV]|bel millivolt|bel mV; B mV; millivolt bels; 10^-3V bels; 10*-3V
B[uV]|bel microvolt|bel uV; B uV; microvolts bels; 10^-6V bel; 10*-6V bel
B[10.nV]|bel 10 nanovolt|bel 10 nV; B 10 nV; 10 nanovolts bels
B[W]|bel watt|bel W; b W; b Watt; Watts bels
B[kW]|bel kilowatt|bel kW; B kW; kilowatt bel; kW bel; kW B
st|stere|stère; m3; cubic meter; m^3; meters cubed; metre
Ao|Ångström|Å; Angstroms; Ao; Ångströms
b|barn|barns
att|technical atmosphere|at; tech atm; tech atmosphere; kgf/cm2; atms; atmospheres
mho|mho|siemens; ohm reciprocals; Ω^−1; Ω-1
[psi]|pound per square inch|psi; lb/in2; lb per in2
circ|circle - plane angle|angles; circles
sph|spere - solid angle|speres
[car_m]|metric carat|carats; ct; car m
[car_Au]|carat of gold alloys|karats; k; kt; car au; carats
[smoot]|Smoot
[m/s2/Hz^(1/2)]|meter per square seconds per square root of hertz|m/s2/(Hz^.5); m/s2/(Hz^(1/2)); m per s2 per Hz^1/2
bit_s|bit - logarithmic|bit-s; bit s; bit logarithmic
bit|bit|bits
By|byte|bytes
Bd|baud|Bd; bauds
`;
