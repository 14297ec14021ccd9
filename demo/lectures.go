// Package demo holds the invented Skerry Sound College: its people, courses, timetable and
// captured lectures, and loads them through the same code as real ones.
package demo

// Slide is one slide of a lecture and what is said over it.
type Slide struct {
	Heading string
	Points  []string
	Say     string // sentences, each ended by a full stop
}

// Talk is a captured lecture: what was shown and said.
type Talk struct {
	File   string // name of its files below media/
	Course string
	Week   int
	Topic  string
	Voice  string // of the speech synthesiser that made it
	Break  int    // the slide before which everyone has a break
	Slides []Slide
}

// Talks are the captured lectures of the demonstration, all made up.
var Talks = []Talk{
	{"tid-1", "TID 210", 1, "Two high waters a day", "flite:slt", 2, []Slide{
		{"Two high waters a day", []string{"The Moon pulls", "The Earth turns under the bulge"},
			"Good morning and welcome to reading the tides. Stand on the slip for one whole day and you will see the water rise twice. The Moon pulls on the near side of the sea and leaves the far side behind. So there are two bulges, and we turn under both of them."},
		{"The tidal day", []string{"24 hours 50 minutes", "High water comes later each day"},
			"While we turn once, the Moon has moved on a little. That is why the tidal day is fifty minutes longer than the day on your watch. If high water is at nine today, expect it near ten tomorrow. Write this on the wall of the boathouse."},
		{"Range", []string{"From low water to the next high", "Large near new and full Moon"},
			"The range is the height from low water up to the next high water. Here in the sound it is two metres on a quiet week. Around new and full Moon it is more than four. A mooring that is safe today may dry out on Friday."},
		{"Reading the staff", []string{"Read between the waves", "Note the time before the height"},
			"Now look at the tide staff by the slip. Read it between the waves, never at the crest. Write down the time first and the height second, because the time is the part people forget. Take five readings in a minute and keep the middle one. We will use these numbers next week."},
	}},
	{"tid-2", "TID 210", 2, "Spring tides and neap tides", "flite:slt", 2, []Slide{
		{"Springs and neaps", []string{"Sun and Moon together", "Sun and Moon at odds"},
			"Last week we followed the Moon alone. Today the Sun joins in, with a little less than half the strength. When both pull along one line we have spring tides. When they pull at right angles we have neap tides, low and lazy."},
		{"The fortnight", []string{"Seven days from springs to neaps", "The sea lags by a day or two"},
			"From springs to neaps takes about seven days. The sea is heavy and does not answer at once, so the largest tide comes a day or two after the full Moon. Sailors call this the age of the tide."},
		{"The rule of twelfths", []string{"1, 2, 3, 3, 2, 1", "Half the range in the middle two hours"},
			"Here is a rule for a small boat without a table. Divide the range into twelve parts. In the first hour the water rises one part, then two, then three, then three again, then two, then one. Half of the whole range comes in the middle two hours. That is when the current in the narrows is strongest."},
		{"When the rule fails", []string{"Harbours with a double high water", "Shallow bays"},
			"The rule is a sketch and not a law. In a shallow bay the rise is quick and the fall is slow. In some harbours the water stands at its height for two hours. Always compare the rule with what the staff says. Bring your readings on Wednesday."},
	}},
	{"tid-3", "TID 210", 3, "The tide table and its errors", "flite:slt", 2, []Slide{
		{"What a table knows", []string{"The Moon, the Sun, the shape of the bay"},
			"A tide table is a forecast made years ahead. It knows where the Moon and the Sun will be, and it knows the shape of the bay from old readings. It knows nothing about the weather of today."},
		{"Pressure", []string{"One hectopascal, one centimetre"},
			"High pressure pushes the sea down and low pressure lets it rise. One hectopascal is about one centimetre of water. A deep low over the sound can lift the sea by a third of a metre before any wind has touched it."},
		{"Wind", []string{"Wind piles water against the shore", "A surge arrives late"},
			"A wind that blows for a day toward the land piles the water up. We call that a surge. It often arrives after the wind has gone, on a fine evening, when nobody looks at the moorings."},
		{"Writing the error down", []string{"Observed less predicted", "Keep the sign"},
			"So the most useful number in your notebook is the difference. Take the observed height, subtract the predicted height, and keep the sign. After a month you will know what an easterly does to this harbour. No table will ever tell you that. Thank you, and mind the wet step on the way out."},
	}},
	{"alg-1", "ALG 118", 1, "What is a seaweed", "flite:rms", 2, []Slide{
		{"What is a seaweed", []string{"Not a plant with roots", "Holdfast, stipe, blade"},
			"Good afternoon. A seaweed looks like a plant, but it has no roots, no flowers and no wood. It holds on with a holdfast, stands up with a stipe, and feeds through its blade. It drinks with its whole skin."},
		{"Three families by colour", []string{"Green, brown, red", "Which light they use"},
			"We sort seaweeds into green, brown and red. The colours tell which light they catch. Green ones live near the top, where there is plenty. Red ones live deeper, where only blue light is left."},
		{"The shore in bands", []string{"Splash zone", "Middle shore", "Low shore"},
			"Walk down the shore at low water and you walk through bands. At the top are the ones that can dry out for days. In the middle are the wracks with their bladders. At the bottom, seen only at springs, the kelp begins."},
		{"How to collect", []string{"Photograph first", "Leave the holdfast"},
			"When you collect, take a photograph first and cut second. Leave the holdfast on the rock so that it can grow again. Put a label in the bag and not on the bag, because ink on the outside is gone by the evening. One species in one bag. See you on the shore on Thursday."},
	}},
	{"alg-3", "ALG 118", 3, "Kelp forests and who lives there", "flite:rms", 2, []Slide{
		{"A forest under water", []string{"Canopy, middle storey, floor"},
			"A kelp forest has storeys like a wood on land. The canopy floats at the surface. Below it is a middle storey of shorter kelps, and on the floor it is dim and quiet."},
		{"Growth", []string{"Up to thirty centimetres a day", "Cold, clear, moving water"},
			"Some kelps grow thirty centimetres in a single day. They need cold water, clear water and moving water. Take away any one of the three and the forest thins out within a year."},
		{"Urchins", []string{"Grazers", "What keeps them few"},
			"The sea urchin eats kelp at the holdfast and the whole stipe drifts away. Crabs, fish and otters eat the urchin. When they are gone the urchins march, and behind them the rock is bare. We call that a barren."},
		{"Counting a forest", []string{"Ten metre line", "Count stipes, not blades"},
			"How do you count a forest. Lay a line of ten metres and swim it slowly. Count stipes and not blades, one metre to each side. Do it at the same state of tide each time, and write down how far you could see. A count without the visibility is worth very little."},
	}},
	{"sig-3", "SIG 305", 3, "The character of a light", "espeak-ng:en-gb", 2, []Slide{
		{"The character of a light", []string{"Colour, rhythm, period"},
			"Every light on this coast has a character, so that you know it from its neighbour. The character has three parts. They are the colour, the rhythm and the period."},
		{"Rhythms", []string{"Flashing", "Occulting", "Isophase"},
			"A flashing light is dark for longer than it shines. An occulting light shines for longer than it is dark. An isophase light shares the time evenly. Say these three until you can say them in your sleep."},
		{"Timing a period", []string{"Start on a change", "Count ten, divide by ten"},
			"To time a period, start your watch on a change, from dark to light. Count ten whole periods and divide by ten. A single period measured by hand is wrong by half a second, and half a second is the difference between two lights."},
		{"Fog signals", []string{"Sound bends", "Silence proves nothing"},
			"In fog the light is gone and the horn takes over. Sound bends in the air and can leap over a boat and come down beyond it. So a horn that you hear tells you something. A horn that you do not hear tells you nothing at all. Keep a bell in the boat and somebody to ring it."},
	}},
	{"boa-1", "BOA 140", 1, "Wood, and how it moves", "flite:awb", 2, []Slide{
		{"Wood moves", []string{"Along, across, around"},
			"Welcome to small boat repair. The first thing to learn is that wood moves. It hardly moves along the grain, it moves across the grain, and it moves most of all around the rings."},
		{"Moisture", []string{"Twelve per cent in the shed", "Twenty in the water"},
			"A plank in this shed holds twelve per cent of water. The same plank on the hull holds twenty. In between it swells by a finger for every metre of width, and it will push its neighbour out if you leave no room."},
		{"Choosing a board", []string{"Look at the end", "Rings flat or standing"},
			"Before you buy a board look at its end. If the rings stand upright the board will stay flat. If they lie flat it will cup like a hand. For planking we want them upright, and we pay for it."},
		{"Seams", []string{"Tight inside, open outside"},
			"A seam is tight on the inside and a little open on the outside, like a narrow letter V. Cotton goes in first, then putty. Do not drive the cotton hard. When the boat goes into the water the wood closes the seam by itself, and a seam that is driven too hard will break a frame."},
	}},
	{"boa-2", "BOA 140", 2, "Finding rot before it finds you", "flite:awb", 2, []Slide{
		{"Where rot begins", []string{"Fresh water, not salt", "Corners without air"},
			"Rot begins where fresh water stands and no air moves. Salt water keeps it away. So look under the deck, under the stern seat, and wherever a fitting has been leaking quietly."},
		{"Three tests", []string{"Look", "Knock", "Press"},
			"There are three tests. Look for dark paint that will not dry. Knock with the handle of a screwdriver and listen for a dull sound. Press with a blunt point, and never with a sharp one, because a sharp point goes into sound wood too."},
		{"Cutting back", []string{"Past the stain by a hand's width"},
			"When you find it, cut back past the stain by the width of your hand. Save the piece that you cut out, because it is the pattern for the new one. Mark which side was up. Everybody forgets to mark which side was up."},
		{"The scarf", []string{"Eight to one", "Glue both faces"},
			"The new piece is joined with a scarf. The slope is eight to one, so a plank of one centimetre has a joint of eight. Wet both faces with glue, wait, and wet them again. Clamp it gently. A joint that is squeezed dry is a joint that opens in spring."},
	}},
	{"boa-3", "BOA 140", 3, "Fastenings", "flite:awb", 2, []Slide{
		{"What holds a boat together", []string{"Rivets, screws, bolts"},
			"Today we talk about the small things that hold a boat together. There are rivets, screws and bolts, and each has its place. A boat that mixes them without thought will come apart in order of price."},
		{"Metals that quarrel", []string{"Two metals and salt water make a battery"},
			"Two different metals in salt water make a battery, and the weaker one dissolves. Bronze beside steel will eat the steel within a season. Choose one metal for a boat and stay with it."},
		{"Riveting", []string{"Drill, dolly, rove"},
			"For a rivet one person stands inside and one outside. The one outside holds the heavy dolly against the head. The one inside slips the rove over the point, cuts it, and turns it over with many light blows. Light blows, please. This is not a blacksmith's shop."},
		{"Taking old ones out", []string{"Drill the rove, not the nail"},
			"To take an old rivet out, drill away the rove and not the nail. Then tap the nail back through the plank. If you pull it out from the front you will take a piece of the plank with it, and then we are back at last week's lecture."},
	}},
	{"wea-1", "WEA 220", 1, "Clouds from the slip", "espeak-ng:en-us", 2, []Slide{
		{"Clouds from the slip", []string{"High, middle, low"},
			"Hello and welcome to weather from the shore. We begin with what you can see without any instrument. There are high clouds, middle clouds and low clouds, and each of them tells another part of the day."},
		{"High and thin", []string{"Feathers in the west", "Twenty four hours"},
			"High clouds like feathers are made of ice. When they come from the west and thicken, warm air is climbing over cold air far away. Rain is then a day off, more or less, and you have time to bring the boats in."},
		{"The halo", []string{"A ring around the Moon"},
			"If a veil covers the Moon you may see a ring around it. That ring is light bent by ice. Old people say that the larger the ring the nearer the storm. The ring is always the same size, so please do not say that in the examination."},
		{"Low and grey", []string{"Look at the edge", "Note the time"},
			"Low cloud that arrives with a sharp edge is a front, and the wind will shift as it passes. Note the time when the edge is overhead. With that time and a neighbour's time you can work out how fast it moves. That is our exercise for Thursday."},
	}},
	{"wea-2", "WEA 220", 2, "Pressure and the wind", "espeak-ng:en-us", 2, []Slide{
		{"Pressure", []string{"The weight of the air above"},
			"Pressure is the weight of all the air above your head. You do not feel it, but the barometer does. What matters is hardly ever its height. What matters is how fast it changes."},
		{"Wind", []string{"From high to low, turned aside"},
			"Air wants to flow from high pressure to low. The Earth turns beneath it, and so it is turned aside. In this half of the world it runs around a low against the clock. Stand with your back to the wind and the low is on your left."},
		{"Three hours", []string{"Fall of one: wait", "Fall of three: go home"},
			"Look at the barometer every three hours. If it falls by one, wait and look again. If it falls by three, go home. If it falls by six, you should have been at home for some time."},
		{"The sea breeze", []string{"Land warms first", "Dies at sunset"},
			"On a fine day there is a wind that no chart shows. The land warms before the sea, the air over it rises, and cool air comes in from the water to take its place. It begins before noon, it is strongest in the afternoon, and it dies at sunset. Plan your way home with that in mind."},
	}},
	{"wea-3", "WEA 220", 3, "Fog", "espeak-ng:en-us", 2, []Slide{
		{"What fog is", []string{"Cloud that touches the ground"},
			"Fog is a cloud that touches the ground. Air can hold only so much water, and less when it is cold. Cool it far enough and the water comes out as drops. The temperature at which that happens is the dew point."},
		{"Sea fog", []string{"Warm air over cold water"},
			"On this coast most fog is sea fog. Warm damp air drifts over cold water and is cooled from below. The wind does not blow it away. More wind may only bring more of it."},
		{"Land fog", []string{"Clear night, no wind", "Gone by ten"},
			"Land fog is another thing. It needs a clear night and hardly any wind. The ground loses its heat to the sky and the air above it cools. It is gone by ten in the morning, when the Sun has warmed the field."},
		{"A forecast of your own", []string{"Air, water, dew point"},
			"So you need three numbers for a forecast of your own. Take the temperature of the air, the temperature of the water, and the dew point. If the water is colder than the dew point, expect fog. Measure the water from a bucket and not at the slip. That is all for today."},
	}},
}

// Came is the talk of the file that comes in during the night, made elsewhere, and finds its lecture by itself.
var Came = Talk{"alg-2", "ALG 118", 2, "Light under water", "flite:rms", 2, []Slide{
	{"Light under water", []string{"Red goes first", "Blue goes deepest"},
		"Good afternoon. Last week we sorted seaweeds by colour. Today we ask where the light goes that they live by. The sea takes the red out of it within a few metres, then the yellow, then the green, and blue goes deepest of all."},
	{"How deep is the day", []string{"A white disc on a line", "Where it vanishes"},
		"How deep the day reaches you can measure with a white disc on a line. Let it down until you cannot see it any more and read the line. Three times that depth is about where a kelp can no longer live."},
	{"Turbid water", []string{"After rain", "After a storm"},
		"After rain the river brings mud, and after a storm the sea stirs its own. For a week the forest may stand in the dark. It lives from what it has stored, and it is thin when the water clears."},
	{"Shade", []string{"A canopy shades its own young"},
		"The canopy of a kelp forest shades its own young. They wait on the floor, small and patient, until a storm tears a hole above them. Then they race for the light. Bring a disc and a line on Thursday, and somebody to write the depths down."},
}}
