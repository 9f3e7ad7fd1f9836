// Written by scripts/units.mjs. This product includes all or a portion of the UCUM table, UCUM codes, and UCUM definitions, copyright 1995-2009, Regenstrief Institute, Inc. and the
// Unified Codes for Units of Measures (UCUM) Organization. All rights reserved; used under the license at https://ucum.org/license.

/** Every atom of UCUM, one a line: code, symbol, what it measures with exponents, how many base units it is, its zero in base units, whether it takes prefixes. */
export const ucumTable = String.raw`
m||length|1||metric
s||time|1||metric
g||mass|1||metric
rad||angle|1||metric
K||temperature|1||metric
C||charge|1||metric
cd||light|1||metric
10*|10||10
10^|10||10
[pi]|π||3.141592653589793
%|||0.01
[ppth]|ppth||0.001
[ppm]|ppm||0.000001
[ppb]|ppb||1e-9
[pptr]|pptr||1e-12
mol||amount|6.0221367e+23||metric
sr||angle 2|1||metric
Hz||time -1|1||metric
N||length,time -2,mass|1000||metric
Pa||length -1,time -2,mass|1000||metric
J||length 2,time -2,mass|1000||metric
W||length 2,time -3,mass|1000||metric
A||time -1,charge|1||metric
V||length 2,time -2,mass,charge -1|1000||metric
F||length -2,time 2,mass -1,charge 2|0.001||metric
Ohm|Ω|length 2,time -1,mass,charge -2|1000||metric
S||length -2,time,mass -1,charge 2|0.001||metric
Wb||length 2,time -1,mass,charge -1|1000||metric
Cel|°C|temperature|1|273.15|metric
T||time -1,mass,charge -1|1000||metric
H||length 2,mass,charge -2|1000||metric
lm||angle 2,light|1||metric
lx||length -2,angle 2,light|1||metric
Bq||time -1|1||metric
Gy||length 2,time -2|1||metric
Sv||length 2,time -2|1||metric
deg|°|angle|0.017453292519943295
gon|□g|angle|0.015707963267948967
'||angle|0.0002908882086657216
''||angle|0.00000484813681109536
l||length 3|0.001||metric
L||length 3|0.001||metric
ar|a|length 2|100||metric
min||time|60
h||time|3600
d||time|86400
a_t|at|time|31556925.216
a_j|aj|time|31557600
a_g|ag|time|31556952
a||time|31557600
wk||time|604800
mo_s|mos|time|2551442.976
mo_j|moj|time|2629800
mo_g|mog|time|2629746
mo||time|2629800
t||mass|1000000||metric
bar||length -1,time -2,mass|100000000||metric
u||mass|1.6605402e-24||metric
AU||length|149597870691
pc||length|30856780000000000||metric
[c]|c|length,time -1|299792458||metric
[h]|h|length 2,time -1,mass|6.6260755e-31||metric
[k]|k|length 2,time -2,mass,temperature -1|1.380658e-20||metric
[eps_0]|ε0|length -3,time 2,mass -1,charge 2|8.854187817000001e-15||metric
[mu_0]|μ0|length,mass,charge -2|0.0012566370614359172||metric
[e]|e|charge|1.60217733e-19||metric
eV||length 2,time -2,mass|1.60217733e-16||metric
[m_e]|me|mass|9.1093897e-28||metric
[m_p]|mp|mass|1.6726231e-24||metric
[G]|G|length 3,time -2,mass -1|6.67259e-14||metric
[g]|gn|length,time -2|9.80665||metric
Torr||length -1,time -2,mass|133322
atm||length -1,time -2,mass|101325000
[ly]|l.y.|length|9460730472580800||metric
gf||length,time -2,mass|9.80665||metric
Ky|K|length -1|100||metric
Gal||length,time -2|0.01||metric
dyn||length,time -2,mass|0.01||metric
erg||length 2,time -2,mass|0.0001||metric
P||length -1,time -1,mass|100.00000000000001||metric
Bi||time -1,charge|10||metric
St||length 2,time -1|0.00009999999999999999||metric
Mx||length 2,time -1,mass,charge -1|0.00001||metric
G|Gs|time -1,mass,charge -1|0.1||metric
Oe||length -1,time -1,charge|79.57747154594767||metric
Gb||time -1,charge|0.7957747154594768||metric
sb||length -2,light|10000||metric
Lmb|L|length -2,light|3183.098861837907||metric
ph||length -2,angle 2,light|0.0001||metric
Ci||time -1|37000000000||metric
R||mass -1,charge|2.58e-7||metric
RAD||length 2,time -2|0.01||metric
REM||length 2,time -2|0.01||metric
[in_i]|in|length|0.025400000000000002
[ft_i]|ft|length|0.3048
[yd_i]|yd|length|0.9144000000000001
[mi_i]|mi|length|1609.344
[fth_i]|fth|length|1.8288000000000002
[nmi_i]|n.mi|length|1852
[kn_i]|knot|length,time -1|0.5144444444444445
[sin_i]||length 2|0.0006451600000000001
[sft_i]||length 2|0.09290304
[syd_i]||length 2|0.8361273600000002
[cin_i]||length 3|0.000016387064000000006
[cft_i]||length 3|0.028316846592000004
[cyd_i]|cu.yd|length 3|0.7645548579840002
[bf_i]||length 3|0.0023597372160000006
[cr_i]||length 3|3.6245563637760005
[mil_i]|mil|length|0.000025400000000000004
[cml_i]|circ.mil|length 2|5.067074790974979e-10
[hd_i]|hd|length|0.10160000000000001
[ft_us]|ftus|length|0.3048006096012192
[yd_us]||length|0.9144018288036575
[in_us]||length|0.0254000508001016
[rd_us]||length|5.029210058420117
[ch_us]||length|20.116840233680467
[lk_us]||length|0.20116840233680466
[rch_us]||length|30.480060960121918
[rlk_us]||length|0.3048006096012192
[fth_us]||length|1.828803657607315
[fur_us]||length|201.16840233680466
[mi_us]||length|1609.3472186944373
[acr_us]||length 2|4046.872609874252
[srd_us]||length 2|25.292953811714074
[smi_us]||length 2|2589998.470319521
[sct]||length 2|2589998.470319521
[twp]||length 2|93239944.93150276
[mil_us]||length|0.0000254000508001016
[in_br]||length|0.025399980000000003
[ft_br]||length|0.30479976000000003
[rd_br]||length|5.02919604
[ch_br]||length|20.11678416
[lk_br]||length|0.2011678416
[fth_br]||length|1.82879856
[pc_br]||length|0.7619994000000001
[yd_br]||length|0.91439928
[mi_br]||length|1609.3427328000002
[nmi_br]||length|1853.1825408000002
[kn_br]||length,time -1|0.5147729280000001
[acr_br]||length 2|4046.850049400269
[gal_us]||length 3|0.0037854117840000014
[bbl_us]||length 3|0.15898729492800007
[qt_us]||length 3|0.0009463529460000004
[pt_us]||length 3|0.0004731764730000002
[gil_us]||length 3|0.00011829411825000005
[foz_us]|oz fl|length 3|0.00002957352956250001
[fdr_us]||length 3|0.0000036966911953125014
[min_us]||length 3|6.161151992187503e-8
[crd_us]||length 3|3.6245563637760005
[bu_us]||length 3|0.035239070166880014
[gal_wi]||length 3|0.004404883770860002
[pk_us]||length 3|0.008809767541720004
[dqt_us]||length 3|0.0011012209427150004
[dpt_us]||length 3|0.0005506104713575002
[tbs_us]||length 3|0.000014786764781250006
[tsp_us]||length 3|0.000004928921593750002
[cup_us]||length 3|0.0002365882365000001
[foz_m]|oz fl|length 3|0.000029999999999999997
[cup_m]||length 3|0.00023999999999999998
[tsp_m]||length 3|0.0000049999999999999996
[tbs_m]||length 3|0.000014999999999999999
[gal_br]||length 3|0.004546090000000001
[pk_br]||length 3|0.009092180000000002
[bu_br]||length 3|0.03636872000000001
[qt_br]||length 3|0.0011365225000000002
[pt_br]||length 3|0.0005682612500000001
[gil_br]||length 3|0.00014206531250000003
[foz_br]||length 3|0.000028413062500000005
[fdr_br]||length 3|0.0000035516328125000006
[min_br]||length 3|5.919388020833334e-8
[gr]||mass|0.06479891
[lb_av]|lb|mass|453.59237
[lbf_av]|lbf|length,time -2,mass|4448.2216152605
[oz_av]|oz|mass|28.349523125
[dr_av]||mass|1.7718451953125
[scwt_av]||mass|45359.237
[lcwt_av]||mass|50802.345440000005
[ston_av]||mass|907184.74
[lton_av]||mass|1016046.9088000001
[stone_av]||mass|6350.293180000001
[pwt_tr]||mass|1.5551738400000001
[oz_tr]||mass|31.103476800000003
[lb_tr]||mass|373.2417216
[sc_ap]||mass|1.2959782
[dr_ap]||mass|3.8879346
[oz_ap]||mass|31.1034768
[lb_ap]||mass|373.2417216
[oz_m]||mass|28
[lne]||length|0.002116666666666667
[pnt]||length|0.0003527777777777778
[pca]||length|0.004233333333333334
[pnt_pr]||length|0.00035145980000000004
[pca_pr]||length|0.004217517600000001
[pied]||length|0.3248
[pouce]||length|0.027066666666666666
[ligne]||length|0.0022555555555555554
[didot]||length|0.0003759259259259259
[cicero]||length|0.004511111111111111
[degF]|°F|temperature|0.5555555555555556|255.3722222222222
[degR]|°R|temperature|0.5555555555555556
[degRe]|°Ré|temperature|1.25|273.15
cal_[15]|cal15°C|length 2,time -2,mass|4185.8||metric
cal_[20]|cal20°C|length 2,time -2,mass|4181.9||metric
cal_m|calm|length 2,time -2,mass|4190.0199999999995||metric
cal_IT|calIT|length 2,time -2,mass|4186.8||metric
cal_th|calth|length 2,time -2,mass|4184||metric
cal||length 2,time -2,mass|4184||metric
[Cal]|Cal|length 2,time -2,mass|4184000
[Btu_39]|Btu39°F|length 2,time -2,mass|1059670
[Btu_59]|Btu59°F|length 2,time -2,mass|1054800
[Btu_60]|Btu60°F|length 2,time -2,mass|1054680
[Btu_m]|Btum|length 2,time -2,mass|1055870
[Btu_IT]|BtuIT|length 2,time -2,mass|1055055.85262
[Btu_th]|Btuth|length 2,time -2,mass|1054350
[Btu]|btu|length 2,time -2,mass|1054350
[HP]||length 2,time -3,mass|745699.8715822703
tex||length -1,mass|0.001||metric
[den]|den|length -1,mass|0.0001111111111111111
m[H2O]|m HO2|length -1,time -2,mass|9806650||metric
m[Hg]|m Hg|length -1,time -2,mass|133322000||metric
[in_i'H2O]|in HO2|length -1,time -2,mass|249088.91000000003
[in_i'Hg]|in Hg|length -1,time -2,mass|3386378.8000000003
[PRU]|P.R.U.|length -4,time -1,mass|133322000000
[wood'U]|Wood U.|length -4,time -1,mass|7999320000
[diop]|dpt|length -1|1
[p'diop]|PD|[p'diop]|1
%[slope]|%|%[slope]|1
[mesh_i]||length -1|39.370078740157474
[Ch]|Ch|length|0.0003333333333333333
[drp]|drp|length 3|5e-8
[hnsf'U]|HF||1
[MET]|MET|length 3,time -1,mass -1|5.833333333333334e-11
[hp'_X]|X|[hp'_X]|1
[hp'_C]|C|[hp'_C]|1
[hp'_M]|M|[hp'_M]|1
[hp'_Q]|Q|[hp'_Q]|1
[hp_X]|X|[hp_X]|1
[hp_C]|C|[hp_C]|1
[hp_M]|M|[hp_M]|1
[hp_Q]|Q|[hp_Q]|1
[kp_X]|X|[kp_X]|1
[kp_C]|C|[kp_C]|1
[kp_M]|M|[kp_M]|1
[kp_Q]|Q|[kp_Q]|1
eq|||6.0221367e+23||metric
osm||amount|6.0221367e+23||metric
[pH]|pH|[pH]|1
g%||length -3,mass|10000||metric
[S]|S|time|1e-13
[HPF]|HPF||1
[LPF]|LPF||1
kat||time -1,amount|6.0221367e+23||metric
U||time -1,amount|10036894500000000||metric
[iU]|IU|[iU]|1||metric
[IU]|i.U.|[IU]|1||metric
[arb'U]|arb. U|[arb'U]|1
[USP'U]|U.S.P.|[USP'U]|1
[GPL'U]||[GPL'U]|1
[MPL'U]||[MPL'U]|1
[APL'U]||[APL'U]|1
[beth'U]||[beth'U]|1
[anti'Xa'U]||[anti'Xa'U]|1
[todd'U]||[todd'U]|1
[dye'U]||[dye'U]|1
[smgy'U]||[smgy'U]|1
[bdsk'U]||[bdsk'U]|1
[ka'U]||[ka'U]|1
[knk'U]||[knk'U]|1
[mclg'U]||[mclg'U]|1
[tb'U]||[tb'U]|1
[CCID_50]|CCID50|[CCID_50]|1
[TCID_50]|TCID50|[TCID_50]|1
[EID_50]|EID50|[EID_50]|1
[PFU]|PFU|[PFU]|1
[FFU]|FFU|[FFU]|1
[CFU]|CFU|[CFU]|1
[IR]|IR|[IR]|1
[BAU]|BAU|[BAU]|1
[AU]|AU|[AU]|1
[Amb'a'1'U]|Amb a 1 U|[Amb'a'1'U]|1
[PNU]|PNU|[PNU]|1
[Lf]|Lf|[Lf]|1
[D'ag'U]||[D'ag'U]|1
[FEU]||[FEU]|1
[ELU]||[ELU]|1
[EU]||[EU]|1
Np||Np|1||metric
B||B|1||metric
B[SPL]|B(SPL)|B[SPL]|1||metric
B[V]|B(V)|B[V]|1||metric
B[mV]|B(mV)|B[mV]|1||metric
B[uV]|B(μV)|B[uV]|1||metric
B[10.nV]|B(10 nV)|B[10.nV]|1||metric
B[W]|B(W)|B[W]|1||metric
B[kW]|B(kW)|B[kW]|1||metric
st||length 3|1||metric
Ao|Å|length|1.0000000000000002e-10
b||length 2|1.0000000000000001e-28
att|at|length -1,time -2,mass|98066500
mho||length -2,time,mass -1,charge 2|0.001||metric
[psi]|psi|length -1,time -2,mass|6894757.293168359
circ||angle|6.283185307179586
sph||angle 2|12.566370614359172
[car_m]|ctm|mass|0.2
[car_Au]|ctAu||0.041666666666666664
[smoot]||length|1.7018000000000002
[m/s2/Hz^(1/2)]||[m/s2/Hz^(1/2)]|1
bit_s|bits|bit_s|1
bit||information|1||metric
By|B|information|8||metric
Bd||time -1|1||metric
`;
