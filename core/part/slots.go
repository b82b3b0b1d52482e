package part

import (
	"slices"

	"glenmist/core/engine"
)

// Slot is a place for one part.
type Slot struct {
	Kind  Kind
	Place engine.Place
	// Feeds lists the cylinders that depend on the part in this slot; for a coil in the order
	// of its towers.
	Feeds []engine.Cylinder
}

// Set returns the cylinders that depend on the slot.
func (s Slot) Set() engine.Set { return engine.SetOf(s.Feeds...) }

// maxSlots exceeds the number of slots of any engine: three for each of twelve cylinders.
const maxSlots = 40

// slots holds the slots of one engine.
type slots struct {
	engine engine.Engine
	list   []Slot
	ids    map[Tag]uint8 // of the parts whose home it is
}

// slotsOf lists the slots of an engine by kind, from the supply to the plug, and
// within a kind in order of place.
func slotsOf(e engine.Engine) *slots {
	s := &slots{engine: e}
	coils := e.Coils()
	for _, item := range e.Items() {
		if !item.Part {
			continue
		}
		feeds := item.Feeds.List()
		for _, c := range coils {
			if c.Place == item.Place {
				feeds = c.Cylinders
			}
		}
		s.list = append(s.list, Slot{item.Kind, item.Place, feeds})
	}
	s.ids = make(map[Tag]uint8, len(s.list))
	for i, slot := range s.list {
		s.ids[Of(slot.Kind, slot.Place)] = uint8(i)
	}
	return s
}

// Slots lists the places for parts that an engine has.
func Slots(e engine.Engine) []Slot { return slotsOf(e).list }

// Slots lists the places for parts of the engine. The list is shared: do not change it.
func (p Positions) Slots() []Slot { return p.slots.list }

func (s *slots) find(k Kind, p engine.Place) (int, bool) {
	i := slices.IndexFunc(s.list, func(slot Slot) bool { return slot.Kind == k && slot.Place == p })
	return i, i >= 0
}
