package knowledge

import (
	"slices"
	"strings"
)

// LookAlike states which faults a shape cannot tell apart, and what tells them apart.
type LookAlike struct {
	Shapes      []WaveID
	Words, Tell string
	Source      string
}

// LookAlikes lists them.
var LookAlikes = []LookAlike{
	{[]WaveID{WaveFlashover, WaveJumps}, "A cracked plug and a leaking lead, boot, seat or coil look the same.",
		"Put the plug into another cylinder and see whether it follows.", "C: the spark breaks down too early, wherever"},
	{[]WaveID{WaveShunt, WaveNoBurn}, "Carbon, fuel and oil on a plug look the same, and so does a plug that is wet from cranking.",
		"Look at the plug.", "C: each is a shunt"},
	{[]WaveID{WaveSeriesGap, WaveOpen}, "A break in a lead, a boot’s spring, a worn rotor or a burnt tower look the same.",
		"Measure the lead and look at the ends.", "C: each is a second gap"},
	{[]WaveID{WaveWideGap}, "A worn gap and a plug with the wrong gap look the same.", "Measure the gap.", "C"},
	{[]WaveID{WaveLittleCharge}, "A leaking valve, worn rings, a gasket and a loose plug look the same.",
		"Test compression.", "C: each leaves little charge"},
	{[]WaveID{WaveLean}, "A clogged injector, an air leak and low fuel pressure look the same.", "Swap the injector or test fuel and air.", "C"},
	{[]WaveID{WaveLittleEnergy}, "A weak coil and a poor feed or ground look the same.", "Measure the feed and the ground under load.", "C"},
	{[]WaveID{WaveNoRinging}, "Shorted turns of the primary and of the secondary look the same: either way it is the coil.", "", "C"},
	{[]WaveID{WaveMissing}, "An open primary, a connector, a trigger wire and a driver look the same.", "Test the trigger at the coil.", "C"},
}

// AlikeOf says which faults a shape cannot tell apart, and what tells them; "" of a shape that has one cause.
func AlikeOf(id WaveID) string {
	for _, l := range LookAlikes {
		if slices.Contains(l.Shapes, id) {
			return strings.TrimSpace(l.Words + " " + l.Tell)
		}
	}
	return ""
}
