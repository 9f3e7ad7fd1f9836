// Written by scripts/units.mjs. This product includes all or a portion of the UCUM table, UCUM codes, and UCUM definitions, copyright 1995-2009, Regenstrief Institute, Inc. and the
// Unified Codes for Units of Measures (UCUM) Organization. All rights reserved; used under the license at https://ucum.org/license.

/** Every atom of UCUM, one a line: code, name, symbol, what it measures with exponents, how many base units it is, its zero in base units, whether it takes prefixes, synonyms. */
export const ucumTable = String.raw`
m|meter||length|1||metric|meters; metres; distance
s|second - time||time|1||metric|seconds
g|gram||mass|1||metric|grams; gm
rad|radian||angle|1||metric|radians
K|degree Kelvin||temperature|1||metric|Kelvin; degrees
C|coulomb||charge|1||metric|coulombs
cd|candela||light|1||metric|candelas
10*|the number ten for arbitrary powers|10||10|||10^; 10 to the arbitrary powers
10^|the number ten for arbitrary powers|10||10|||10*; 10 to the arbitrary power
[pi]|the number pi|π||3.141592653589793|||π
%|percent|||0.01|||percents
[ppth]|parts per thousand|ppth||0.001|||ppth; 10^-3
[ppm]|parts per million|ppm||0.000001|||ppm; 10^-6
[ppb]|parts per billion|ppb||1e-9|||ppb; 10^-9
[pptr]|parts per trillion|pptr||1e-12|||pptr; 10^-12
mol|mole||amount|6.0221367e+23||metric|moles
sr|steradian - solid angle||angle 2|1||metric|square radian; rad2; rad^2
Hz|hertz||time -1|1||metric|Herz; frequency; frequencies
N|newton||length,time -2,mass|1000||metric|Newtons
Pa|pascal||length -1,time -2,mass|1000||metric|pascals
J|joule||length 2,time -2,mass|1000||metric|joules
W|watt||length 2,time -3,mass|1000||metric|watts
A|Ampere||time -1,charge|1||metric|Amperes
V|volt||length 2,time -2,mass,charge -1|1000||metric|volts
F|farad||length -2,time 2,mass -1,charge 2|0.001||metric|farads; electric capacitance
Ohm|ohm|Ω|length 2,time -1,mass,charge -2|1000||metric|Ω; resistance; ohms
S|siemens||length -2,time,mass -1,charge 2|0.001||metric|Reciprocal ohm; mho; Ω−1; conductance
Wb|weber||length 2,time -1,mass,charge -1|1000||metric|magnetic flux; webers
Cel|degree Celsius|°C|temperature|1|273.15|metric|°C; degrees
T|tesla||time -1,mass,charge -1|1000||metric|Teslas; magnetic field
H|henry||length 2,mass,charge -2|1000||metric|henries; inductance
lm|lumen||angle 2,light|1||metric|luminous flux; lumens
lx|lux||length -2,angle 2,light|1||metric|illuminance; luxes
Bq|becquerel||time -1|1||metric|activity; radiation; becquerels
Gy|gray||length 2,time -2|1||metric|absorbed doses; ionizing radiation doses; kerma; grays
Sv|sievert||length 2,time -2|1||metric|sieverts; radiation dose quantities; equivalent doses; effective dose; operational dose; committed dose
deg|degree - plane angle|°|angle|0.017453292519943295|||°; degree of arc; arc degree; arcdegree; angle
gon|gon|□g|angle|0.015707963267948967|||gon (grade); gons
'|arc minute||angle|0.0002908882086657216|||arcminutes; arcmin; arc minutes; arc mins
''|arc second||angle|0.00000484813681109536|||arcseconds; arcsecs
l|Liters||length 3|0.001||metric|cubic decimeters; decimeters cubed; decimetres; dm3; dm^3; litres; liters, LT
L|Liters||length 3|0.001||metric|cubic decimeters; decimeters cubed; decimetres; dm3; dm^3; litres; liters, LT
ar|are|a|length 2|100||metric|100 m2; 100 m^2; 100 square meter; meters squared; metres
min|minute||time|60|||minutes
h|hour||time|3600|||hours; hrs; age
d|day||time|86400|||days; age; dy; 24 hours; 24 hrs
a_t|tropical year|at|time|31556925.216|||solar years; a tropical; years
a_j|mean Julian year|aj|time|31557600|||mean Julian yr; a julian; years
a_g|mean Gregorian year|ag|time|31556952|||mean Gregorian yr; a gregorian; years
a|year||time|31557600|||years; a; yr, yrs; annum
wk|week||time|604800|||weeks; wks
mo_s|synodal month|mos|time|2551442.976|||Moon; synodic month; lunar month; mo-s; mo s; months; moons
mo_j|mean Julian month|moj|time|2629800|||mo-julian; mo Julian; months
mo_g|mean Gregorian month|mog|time|2629746|||months; month-gregorian; mo-gregorian
mo|month||time|2629800|||months; duration
t|metric ton||mass|1000000||metric|tonnes; megagrams; tons
bar|bar||length -1,time -2,mass|100000000||metric|bars
u|unified atomic mass unit||mass|1.6605402e-24||metric|unified atomic mass units; amu; Dalton; Da
AU|astronomic unit||length|149597870691|||AU; units
pc|parsec||length|30856780000000000||metric|parsecs
[c]|velocity of light in a vacuum|c|length,time -1|299792458||metric|speed of light
[h]|Planck constant|h|length 2,time -1,mass|6.6260755e-31||metric|Planck's constant
[k]|Boltzmann constant|k|length 2,time -2,mass,temperature -1|1.380658e-20||metric|k; kB
[eps_0]|permittivity of vacuum - electric|ε0|length -3,time 2,mass -1,charge 2|8.854187817000001e-15||metric|ε0; Electric Constant; vacuum permittivity; permittivity of free space
[mu_0]|permeability of vacuum - magnetic|μ0|length,mass,charge -2|0.0012566370614359172||metric|μ0; vacuum permeability; permeability of free space; magnetic constant
[e]|elementary charge|e|charge|1.60217733e-19||metric|e; q; electric charges
eV|electronvolt||length 2,time -2,mass|1.60217733e-16||metric|Electron Volts; electronvolts
[m_e]|electron mass|me|mass|9.1093897e-28||metric|electron rest mass; me
[m_p]|proton mass|mp|mass|1.6726231e-24||metric|mp; masses
[G]|Newtonian constant of gravitation|G|length 3,time -2,mass -1|6.67259e-14||metric|G; gravitational constant; Newton's constant
[g]|standard acceleration of free fall|gn|length,time -2|9.80665||metric|standard gravity; g; ɡ0; ɡn
Torr|Torr||length -1,time -2,mass|133322|||torrs
atm|standard atmosphere||length -1,time -2,mass|101325000|||reference pressure; atmos; std atmosphere
[ly]|light-year|l.y.|length|9460730472580800||metric|light years; ly
gf|gram-force||length,time -2,mass|9.80665||metric|Newtons; gram forces
Ky|Kayser|K|length -1|100||metric|wavenumbers; kaysers
Gal|Gal||length,time -2|0.01||metric|galileos; Gals
dyn|dyne||length,time -2,mass|0.01||metric|dynes
erg|erg||length 2,time -2,mass|0.0001||metric|10^-7 Joules, 10-7 Joules; 100 nJ; 100 nanoJoules; 1 dyne cm; 1 g.cm2/s2
P|Poise||length -1,time -1,mass|100.00000000000001||metric|dynamic viscosity; poises
Bi|Biot||time -1,charge|10||metric|Bi; abamperes; abA
St|Stokes||length 2,time -1|0.00009999999999999999||metric|kinematic viscosity
Mx|Maxwell||length 2,time -1,mass,charge -1|0.00001||metric|magnetix flux; Maxwells
G|Gauss|Gs|time -1,mass,charge -1|0.1||metric|magnetic fields; magnetic flux density; induction; B
Oe|Oersted||length -1,time -1,charge|79.57747154594767||metric|H magnetic B field; Oersteds
Gb|Gilbert||time -1,charge|0.7957747154594768||metric|Gi; magnetomotive force; Gilberts
sb|stilb||length -2,light|10000||metric|stilbs
Lmb|Lambert|L|length -2,light|3183.098861837907||metric|luminance; lamberts
ph|phot||length -2,angle 2,light|0.0001||metric|phots
Ci|Curie||time -1|37000000000||metric|curies
R|Roentgen||mass -1,charge|2.58e-7||metric|röntgen; Roentgens
RAD|radiation absorbed dose||length 2,time -2|0.01||metric|doses
REM|radiation equivalent man||length 2,time -2|0.01||metric|Roentgen Equivalent in Man; rems; dose equivalents
[in_i]|inch|in|length|0.025400000000000002|||inches; in; international inch; body height
[ft_i]|foot|ft|length|0.3048|||ft; fts; foot; international foot; feet; international feet; height
[yd_i]|yard|yd|length|0.9144000000000001|||international yards; yds; distance
[mi_i]|mile|mi|length|1609.344|||international miles; mi I; statute mile
[fth_i]|fathom|fth|length|1.8288000000000002|||international fathoms
[nmi_i]|nautical mile|n.mi|length|1852|||nautical mile; nautical miles; international nautical mile; international nautical miles; nm; n.m.; nmi
[kn_i]|knot|knot|length,time -1|0.5144444444444445|||kn; kt; international knots
[sin_i]|square inch||length 2|0.0006451600000000001|||in2; in^2; inches squared; sq inch; inches squared; international
[sft_i]|square foot||length 2|0.09290304|||ft2; ft^2; ft squared; sq ft; feet; international
[syd_i]|square yard||length 2|0.8361273600000002|||yd2; yd^2; sq. yds; yards squared; international
[cin_i]|cubic inch||length 3|0.000016387064000000006|||in3; in^3; in*3; inches^3; inches*3; cu. in; cu in; cubic inches; inches cubed; cin
[cft_i]|cubic foot||length 3|0.028316846592000004|||ft3; ft^3; ft*3; cu. ft; cubic feet; cubed; [ft_i]3; international
[cyd_i]|cubic yard|cu.yd|length 3|0.7645548579840002|||cubic yards; cubic yds; cu yards; CYs; yards^3; yd^3; yds^3; yd3; yds3
[bf_i]|board foot||length 3|0.0023597372160000006|||BDFT; FBM; BF; board feet; international
[cr_i]|cord||length 3|3.6245563637760005|||crd I; international cords
[mil_i]|mil|mil|length|0.000025400000000000004|||thou, thousandth; mils; international
[cml_i]|circular mil|circ.mil|length 2|5.067074790974979e-10|||circular mils; cml I; international
[hd_i]|hand|hd|length|0.10160000000000001|||hands; international
[ft_us]|foot - US|ftus|length|0.3048006096012192|||US foot; foot US; us ft; ft us; height; visual distance; feet
[yd_us]|yard - US||length|0.9144018288036575|||US yards; us yds; distance
[in_us]|inch - US||length|0.0254000508001016|||US inches; in us; us in; inch US
[rd_us]|rod - US||length|5.029210058420117|||US rod; US rods; rd US; US rd
[ch_us]|Gunter's chain - US||length|20.116840233680467|||surveyor's chain; Surveyor's chain USA; Gunter’s measurement; surveyor’s measurement; Gunter's Chain USA
[lk_us]|link for Gunter's chain - US||length|0.20116840233680466|||Links for Gunter's Chain USA
[rch_us]|Ramden's chain - US||length|30.480060960121918|||Ramsden's chain; engineer's chains
[rlk_us]|link for Ramden's chain - US||length|0.3048006096012192|||links for Ramsden's chain
[fth_us]|fathom - US||length|1.828803657607315|||US fathoms; fathom USA; fth us
[fur_us]|furlong - US||length|201.16840233680466|||US furlongs; fur us
[mi_us]|mile - US||length|1609.3472186944373|||U.S. Survey Miles; US statute miles; survey mi; US mi; distance
[acr_us]|acre - US||length 2|4046.872609874252|||Acre USA Survey; Acre USA; survey acres
[srd_us]|square rod - US||length 2|25.292953811714074|||rod2; rod^2; sq. rod; rods squared
[smi_us]|square mile - US||length 2|2589998.470319521|||mi2; mi^2; sq mi; miles squared
[sct]|section||length 2|2589998.470319521|||sct; sections
[twp]|township||length 2|93239944.93150276|||twp; townships
[mil_us]|mil - US||length|0.0000254000508001016|||thou, thousandth; mils
[in_br]|inch - British||length|0.025399980000000003|||imperial inches; imp in; br in; british inches
[ft_br]|foot - British||length|0.30479976000000003|||British Foot; Imperial Foot; feet; imp fts; br fts
[rd_br]|rod - British||length|5.02919604|||British rods; br rd
[ch_br]|Gunter's chain - British||length|20.11678416|||Gunter's Chain British; Gunters Chain British; Surveyor's Chain British
[lk_br]|link for Gunter's chain - British||length|0.2011678416|||Links for Gunter's Chain British
[fth_br]|fathom - British||length|1.82879856|||British fathoms; imperial fathoms; br fth; imp fth
[pc_br]|pace - British||length|0.7619994000000001|||British paces; br pc
[yd_br]|yard - British||length|0.91439928|||British yards; Br yds; distance
[mi_br]|mile - British||length|1609.3427328000002|||imperial miles; British miles; English statute miles; imp mi, br mi
[nmi_br]|nautical mile - British||length|1853.1825408000002|||British nautical miles; Imperial nautical miles; Admiralty miles; n.m. br; imp nm
[kn_br]|knot - British||length,time -1|0.5147729280000001|||British knots; kn br; kt
[acr_br]|acre||length 2|4046.850049400269|||Imperial acres; British; a; ac; ar; acr
[gal_us]|gallon - US||length 3|0.0037854117840000014|||US gallons; US liquid gallon; gal us; Queen Anne's wine gallon
[bbl_us]|barrel - US||length 3|0.15898729492800007|||bbl
[qt_us]|quart - US||length 3|0.0009463529460000004|||US quarts; us qts
[pt_us]|pint - US||length 3|0.0004731764730000002|||US pints; pint US; liquid pint; pt us; us pt
[gil_us]|gill - US||length 3|0.00011829411825000005|||US gills; gil us
[foz_us]|fluid ounce - US|oz fl|length 3|0.00002957352956250001|||US fluid ounces; fl ozs; FO; fl. oz.; foz us
[fdr_us]|fluid dram - US||length 3|0.0000036966911953125014|||US fluid drams; fdr us
[min_us]|minim - US||length 3|6.161151992187503e-8|||min US; US min; ♏ US
[crd_us]|cord - US||length 3|3.6245563637760005|||US cord; US cords; crd us; us crd
[bu_us]|bushel - US||length 3|0.035239070166880014|||US bushels; US bsh; US bu
[gal_wi]|gallon - historical||length 3|0.004404883770860002|||Corn Gallon British; Dry Gallon US; Gallons Historical; Grain Gallon British; Winchester Corn Gallon; historical winchester gallons; wi gal
[pk_us]|peck - US||length 3|0.008809767541720004|||US pecks; US pk
[dqt_us]|dry quart - US||length 3|0.0011012209427150004|||dry quarts; dry quart US; US dry quart; dry qt; us dry qt; dqt; dqt us
[dpt_us]|dry pint - US||length 3|0.0005506104713575002|||dry pints; dry pint US; US dry pint; dry pt; dpt; dpt us
[tbs_us]|tablespoon - US||length 3|0.000014786764781250006|||Tbs; tbsp; tbs us; US tablespoons
[tsp_us]|teaspoon - US||length 3|0.000004928921593750002|||tsp; t; US teaspoons
[cup_us]|cup - US customary||length 3|0.0002365882365000001|||cup us; us cups
[foz_m]|fluid ounce - metric|oz fl|length 3|0.000029999999999999997|||metric fluid ounces; fozs m; fl ozs m
[cup_m]|cup - US legal||length 3|0.00023999999999999998|||cup m; metric cups
[tsp_m]|teaspoon - metric||length 3|0.0000049999999999999996|||tsp; t; metric teaspoons
[tbs_m]|tablespoon - metric||length 3|0.000014999999999999999|||metric tablespoons; Tbs; tbsp; T; tbs m
[gal_br]|gallon- British||length 3|0.004546090000000001|||imperial gallons, UK gallons; British gallons; br gal; imp gal
[pk_br]|peck - British||length 3|0.009092180000000002|||imperial pecks; British pecks; br pk; imp pk
[bu_br]|bushel - British||length 3|0.03636872000000001|||British bushels; imperial; br bsh; br bu; imp
[qt_br]|quart - British||length 3|0.0011365225000000002|||British quarts; imperial quarts; br qts
[pt_br]|pint - British||length 3|0.0005682612500000001|||British pints; imperial pints; pt br; br pt; imp pt; pt imp
[gil_br]|gill - British||length 3|0.00014206531250000003|||imperial gills; British gills; imp gill, br gill
[foz_br]|fluid ounce - British||length 3|0.000028413062500000005|||British fluid ounces; Imperial fluid ounces; br fozs; imp fozs; br fl ozs
[fdr_br]|fluid dram - British||length 3|0.0000035516328125000006|||British fluid drams; fdr br
[min_br]|minim - British||length 3|5.919388020833334e-8|||min br; br min; ♏ br
[gr]|grain||mass|0.06479891|||gr; grains
[lb_av]|pound|lb|mass|453.59237|||avoirdupois pounds, international pounds; av lbs; pounds
[lbf_av]|pound force - US|lbf|length,time -2,mass|4448.2216152605|||lbfs; US lbf; US pound forces
[oz_av]|ounce|oz|mass|28.349523125|||ounces; international ounces; avoirdupois ounces; av ozs
[dr_av]|Dram mass unit||mass|1.7718451953125|||Dram; drams avoirdupois; avoidupois dram; international dram
[scwt_av]|short hundredweight||mass|45359.237|||hundredweights; s cwt; scwt; avoirdupois
[lcwt_av]|long hundredweight||mass|50802.345440000005|||imperial hundredweights; imp cwt; lcwt; avoirdupois
[ston_av]|short ton - US||mass|907184.74|||ton; US tons; avoirdupois tons
[lton_av]|long ton - British||mass|1016046.9088000001|||imperial tons; weight tons; British long tons; long ton avoirdupois
[stone_av]|stone - British||mass|6350.293180000001|||British stones; avoirdupois
[pwt_tr]|pennyweight - troy||mass|1.5551738400000001|||dwt; denarius weights
[oz_tr]|ounce - troy||mass|31.103476800000003|||troy ounces; tr ozs
[lb_tr]|pound - troy||mass|373.2417216|||troy pounds; tr lbs
[sc_ap]|scruple||mass|1.2959782|||scruples; sc ap
[dr_ap]|dram - apothecary||mass|3.8879346|||ʒ; drachm; apothecaries drams; dr ap; dram ap
[oz_ap]|ounce - apothecary||mass|31.1034768|||apothecary ounces; oz ap; ap ozs; ozs ap
[lb_ap]|pound - apothecary||mass|373.2417216|||apothecary pounds; apothecaries pounds; ap lb; lb ap; ap lbs; lbs ap
[oz_m]|ounce - metric||mass|28|||metric ounces; m ozs
[lne]|line||length|0.002116666666666667|||British lines; br L; L; l
[pnt]|point (typography)||length|0.0003527777777777778|||DTP points; desktop publishing point; pt; pnt
[pca]|pica (typography)||length|0.004233333333333334|||picas
[pnt_pr]|Printer's point (typography)||length|0.00035145980000000004|||pnt pr
[pca_pr]|Printer's pica  (typography)||length|0.004217517600000001|||pca pr; Printer's picas
[pied]|pied||length|0.3248|||pieds du roi; Paris foot; royal; French; feet
[pouce]|pouce||length|0.027066666666666666|||historical French inches; French royal inches
[ligne]|ligne||length|0.0022555555555555554|||Paris lines; lignes
[didot]|didot||length|0.0003759259259259259|||Didot point; dd; Didots Point; didots; points
[cicero]|cicero||length|0.004511111111111111|||Didot's pica; ciceros; picas
[degF]|degrees Fahrenheit|°F|temperature|0.5555555555555556|255.3722222222222||°F; deg F
[degR]|degrees Rankine|°R|temperature|0.5555555555555556|||°R; °Ra; Rankine
[degRe]|degrees Réaumur|°Ré|temperature|1.25|273.15||°Ré, °Re, °r; Réaumur; degree Reaumur; Reaumur
cal_[15]|calorie at 15°C|cal15°C|length 2,time -2,mass|4185.8||metric|calorie 15 C; cals 15 C; calories at 15 C
cal_[20]|calorie at 20°C|cal20°C|length 2,time -2,mass|4181.9||metric|calorie 20 C; cal 20 C; calories at 20 C
cal_m|mean calorie|calm|length 2,time -2,mass|4190.0199999999995||metric|mean cals; mean calories
cal_IT|international table calorie|calIT|length 2,time -2,mass|4186.8||metric|calories IT; IT cals; international steam table calories
cal_th|thermochemical calorie|calth|length 2,time -2,mass|4184||metric|thermochemical calories; th cals
cal|calorie||length 2,time -2,mass|4184||metric|gram calories; small calories
[Cal]|nutrition label Calories|Cal|length 2,time -2,mass|4184000|||food calories; Cal; kcal
[Btu_39]|British thermal unit at 39°F|Btu39°F|length 2,time -2,mass|1059670|||BTU 39F; BTU 39 F; B.T.U. 39 F; B.Th.U. 39 F; BThU 39 F; British thermal units
[Btu_59]|British thermal unit at 59°F|Btu59°F|length 2,time -2,mass|1054800|||BTU 59 F; BTU 59F; B.T.U. 59 F; B.Th.U. 59 F; BThU 59F; British thermal units
[Btu_60]|British thermal unit at 60°F|Btu60°F|length 2,time -2,mass|1054680|||BTU 60 F; BTU 60F; B.T.U. 60 F; B.Th.U. 60 F; BThU 60 F; British thermal units 60 F
[Btu_m]|mean British thermal unit|Btum|length 2,time -2,mass|1055870|||BTU mean; B.T.U. mean; B.Th.U. mean; BThU mean; British thermal units mean;
[Btu_IT]|international table British thermal unit|BtuIT|length 2,time -2,mass|1055055.85262|||BTU IT; B.T.U. IT; B.Th.U. IT; BThU IT; British thermal units IT
[Btu_th]|thermochemical British thermal unit|Btuth|length 2,time -2,mass|1054350|||BTU Th; B.T.U. Th; B.Th.U. Th; BThU Th; thermochemical British thermal units
[Btu]|British thermal unit|btu|length 2,time -2,mass|1054350|||BTU; B.T.U.; B.Th.U.; BThU; British thermal units
[HP]|horsepower - mechanical||length 2,time -3,mass|745699.8715822703|||imperial horsepowers
tex|tex||length -1,mass|0.001||metric|linear mass density; texes
[den]|Denier (linear mass density)|den|length -1,mass|0.0001111111111111111|||den; deniers
m[H2O]|meter of water column|m HO2|length -1,time -2,mass|9806650||metric|mH2O; m H2O; meters of water column; metres; pressure
m[Hg]|meter of mercury column|m Hg|length -1,time -2,mass|133322000||metric|mHg; m Hg; meters of mercury column; metres; pressure
[in_i'H2O]|inch of water column|in HO2|length -1,time -2,mass|249088.91000000003|||inches WC; inAq; in H2O; inch of water gauge; iwg; pressure
[in_i'Hg]|inch of mercury column|in Hg|length -1,time -2,mass|3386378.8000000003|||inHg; in Hg; pressure; inches
[PRU]|peripheral vascular resistance unit|P.R.U.|length -4,time -1,mass|133322000000|||peripheral vascular resistance units; peripheral resistance unit; peripheral resistance units; PRU
[wood'U]|Wood unit|Wood U.|length -4,time -1,mass|7999320000|||hybrid reference units; HRU; mmHg.min/L; vascular resistance
[diop]|diopter (lens)|dpt|length -1|1|||diopters; diop; dioptre; dpt; refractive power
[p'diop]|prism diopter (magnifying power)|PD|[p'diop]|1|||diopters; dioptres; p diops; pdiop; dpt; pdptr; Δ; cm/m; centimeter per meter; centimetre; metre
%[slope]|percent of slope|%|%[slope]|1|||% slope; %slope; percents slopes
[mesh_i]|mesh||length -1|39.370078740157474|||meshes
[Ch]|French (catheter gauge) |Ch|length|0.0003333333333333333|||Charrières, French scales; French gauges; Fr, Fg, Ga, FR, Ch
[drp]|drop - metric (1/20 mL)|drp|length 3|5e-8|||drop dosing units; metric drops; gtt
[hnsf'U]|Hounsfield unit|HF||1|||HU; units
[MET]|Metabolic Equivalent of Task |MET|length 3,time -1,mass -1|5.833333333333334e-11|||metabolic equivalents
[hp'_X]|homeopathic potency of decimal series (retired)|X|[hp'_X]|1
[hp'_C]|homeopathic potency of centesimal series (retired)|C|[hp'_C]|1
[hp'_M]|homeopathic potency of millesimal series (retired)|M|[hp'_M]|1
[hp'_Q]|homeopathic potency of quintamillesimal series (retired)|Q|[hp'_Q]|1
[hp_X]|homeopathic potency of decimal hahnemannian series|X|[hp_X]|1
[hp_C]|homeopathic potency of centesimal hahnemannian series|C|[hp_C]|1
[hp_M]|homeopathic potency of millesimal hahnemannian series|M|[hp_M]|1
[hp_Q]|homeopathic potency of quintamillesimal hahnemannian series|Q|[hp_Q]|1
[kp_X]|homeopathic potency of decimal korsakovian series|X|[kp_X]|1
[kp_C]|homeopathic potency of centesimal korsakovian series|C|[kp_C]|1
[kp_M]|homeopathic potency of millesimal korsakovian series|M|[kp_M]|1
[kp_Q]|homeopathic potency of quintamillesimal korsakovian series|Q|[kp_Q]|1
eq|equivalent|||6.0221367e+23||metric|equivalents
osm|osmole||amount|6.0221367e+23||metric|osmoles; osmols
[pH]|pH|pH|[pH]|1|||pH scale
g%|gram percent||length -3,mass|10000||metric|gram %; gram%; grams per deciliter; g/dL; gm per dL; gram percents
[S]|Svedberg unit|S|time|1e-13|||Sv; 10^-13 seconds; 100 fs; 100 femtoseconds
[HPF]|high power field (microscope)|HPF||1|||HPF
[LPF]|low power field (microscope)|LPF||1|||LPF; fields
kat|katal||time -1,amount|6.0221367e+23||metric|mol/secs; moles per second; mol*sec-1; mol*s-1; mol.s-1; katals; catalytic activity; enzymatic; enzyme units; activities
U|enzyme unit||time -1,amount|10036894500000000||metric|micromoles per minute; umol/min; umol per minute; umol min-1; enzymatic activity; enzyme activity
[iU]|international unit - arbitrary|IU|[iU]|1||metric|international units; IE; F2
[IU]|international unit - arbitrary|i.U.|[IU]|1||metric|international units; IE; F2
[arb'U]|arbitary unit|arb. U|[arb'U]|1|||arbitary units; arb units; arbU
[USP'U]|United States Pharmacopeia unit|U.S.P.|[USP'U]|1|||USP U; USP'U
[GPL'U]|GPL unit||[GPL'U]|1|||GPL Units; GPL U; IgG anticardiolipin units; IgG Phospholipid
[MPL'U]|MPL unit||[MPL'U]|1|||MPL units; MPL U; MPL'U; IgM anticardiolipin units; IgM Phospholipid Units
[APL'U]|APL unit||[APL'U]|1|||APL units; APL U; IgA anticardiolipin; IgA Phospholipid; biologic activity of
[beth'U]|Bethesda unit||[beth'U]|1|||BU
[anti'Xa'U]|anti factor Xa unit||[anti'Xa'U]|1|||units
[todd'U]|Todd unit||[todd'U]|1|||units
[dye'U]|Dye unit||[dye'U]|1|||units
[smgy'U]|Somogyi unit||[smgy'U]|1|||Somogyi units; smgy U
[bdsk'U]|Bodansky unit||[bdsk'U]|1
[ka'U]|King-Armstrong unit||[ka'U]|1|||King-Armstrong Units; King units
[knk'U]|Kunkel unit||[knk'U]|1
[mclg'U]|Mac Lagan unit||[mclg'U]|1|||galactose index; galactose tolerance test; thymol turbidity test unit; mclg U; units; indexes
[tb'U]|tuberculin unit||[tb'U]|1|||TU; units
[CCID_50]|50% cell culture infectious dose|CCID50|[CCID_50]|1|||CCID50; 50% cell culture infective doses
[TCID_50]|50% tissue culture infectious dose|TCID50|[TCID_50]|1|||TCID50; 50% tissue culture infective dose
[EID_50]|50% embryo infectious dose|EID50|[EID_50]|1|||EID50; 50% embryo infective doses; EID50 Egg Infective Dosage
[PFU]|plaque forming units|PFU|[PFU]|1|||PFU
[FFU]|focus forming units (cells)|FFU|[FFU]|1|||FFU
[CFU]|colony forming units|CFU|[CFU]|1|||CFU
[IR]|index of reactivity (allergen)|IR|[IR]|1|||IR; indexes
[BAU]|bioequivalent allergen unit|BAU|[BAU]|1|||BAU; Bioequivalent Allergy Units; bioequivalent allergen units
[AU]|allergy unit|AU|[AU]|1|||allergy units; allergen units; AU
[Amb'a'1'U]|allergen unit for Ambrosia artemisiifolia|Amb a 1 U|[Amb'a'1'U]|1|||Amb a 1 unit; Antigen E; AgE U; allergen units
[PNU]|protein nitrogen unit (allergen testing)|PNU|[PNU]|1|||protein nitrogen units; PNU
[Lf]|Limit of flocculation|Lf|[Lf]|1|||Lf doses
[D'ag'U]|D-antigen unit (polio)||[D'ag'U]|1|||DAgU; units
[FEU]|fibrinogen equivalent units||[FEU]|1|||FEU
[ELU]|ELISA unit||[ELU]|1|||Enzyme-Linked Immunosorbent Assay Units; ELU; EL. U
[EU]|Ehrlich units (urobilinogen)||[EU]|1|||EU/dL; mg{urobilinogen}/dL
Np|neper||Np|1||metric|nepers
B|bel||B|1||metric|bels
B[SPL]|bel sound pressure|B(SPL)|B[SPL]|1||metric|bel SPL; B SPL; sound pressure bels
B[V]|bel volt|B(V)|B[V]|1||metric|bel V; B V; volts bels
B[mV]|bel millivolt|B(mV)|B[mV]|1||metric|bel mV; B mV; millivolt bels; 10^-3V bels; 10*-3V
B[uV]|bel microvolt|B(μV)|B[uV]|1||metric|bel uV; B uV; microvolts bels; 10^-6V bel; 10*-6V bel
B[10.nV]|bel 10 nanovolt|B(10 nV)|B[10.nV]|1||metric|bel 10 nV; B 10 nV; 10 nanovolts bels
B[W]|bel watt|B(W)|B[W]|1||metric|bel W; b W; b Watt; Watts bels
B[kW]|bel kilowatt|B(kW)|B[kW]|1||metric|bel kW; B kW; kilowatt bel; kW bel; kW B
st|stere||length 3|1||metric|stère; m3; cubic meter; m^3; meters cubed; metre
Ao|Ångström|Å|length|1.0000000000000002e-10|||Å; Angstroms; Ao; Ångströms
b|barn||length 2|1.0000000000000001e-28|||barns
att|technical atmosphere|at|length -1,time -2,mass|98066500|||at; tech atm; tech atmosphere; kgf/cm2; atms; atmospheres
mho|mho||length -2,time,mass -1,charge 2|0.001||metric|siemens; ohm reciprocals; Ω^−1; Ω-1
[psi]|pound per square inch|psi|length -1,time -2,mass|6894757.293168359|||psi; lb/in2; lb per in2
circ|circle - plane angle||angle|6.283185307179586|||angles; circles
sph|spere - solid angle||angle 2|12.566370614359172|||speres
[car_m]|metric carat|ctm|mass|0.2|||carats; ct; car m
[car_Au]|carat of gold alloys|ctAu||0.041666666666666664|||karats; k; kt; car au; carats
[smoot]|Smoot||length|1.7018000000000002
[m/s2/Hz^(1/2)]|meter per square seconds per square root of hertz||[m/s2/Hz^(1/2)]|1|||m/s2/(Hz^.5); m/s2/(Hz^(1/2)); m per s2 per Hz^1/2
bit_s|bit - logarithmic|bits|bit_s|1|||bit-s; bit s; bit logarithmic
bit|bit||information|1||metric|bits
By|byte|B|information|8||metric|bytes
Bd|baud||time -1|1||metric|Bd; bauds
`;
