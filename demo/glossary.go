package demo

// drafted are the talks that come without captions, so that theirs are drafted from the sound.
var drafted = []string{"alg-3", "wea-2"}

// Glossaries are the words of the courses, a term a line.
var Glossaries = map[string]string{
	"TID 210": `spring tide
neap tide
high water
low water
tide staff
tidal range
chart datum
rule of twelfths
age of the tide
ebb and flood
slack water
tide tables
harbour
mooring
the Sun and the Moon
current
the slip
the narrows
crest
fathom
`,
	"ALG 118": `holdfast
stipe
blade
frond
kelp forest
brown algae
red algae
green algae
laminaria
spores
sea urchin
intertidal zone
low shore
photosynthesis
rockweed
wrack
canopy
nutrients
gas bladder
drying
`,
	"SIG 305": `foghorn
bell buoy
light
lighthouse
lens
sector light
flash and eclipse
period
character
candela
keeper
diaphone
lamp
green to starboard
red to port
bearing
range
mast
watch
sound signal
`,
	"BOA 140": `clinker planking
stem and keel
transom
rivet and rove
caulking
bilge
rot
scarf joint
epoxy
plank
garboard
freshwater
saltwater
mallet
batten
pattern
frame
thwart
seam
varnish
`,
	"WEA 220": `barometer
pressure
high and low
wind
front
cumulus
stratus
cirrus
fog
dew point
sea breeze
forecast
halo
temperature
ice crystals
humidity
isobar
storm
gale
veering and backing
`,
}
