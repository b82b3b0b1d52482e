package engine

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glenmist/core/invalid"
)

// Bounds of the covers of one engine.
const (
	MaxCovers       = 12
	MaxCoverName    = 40
	MaxCoverMinutes = 600
)

// Cover is a component that must come off before the places behind it can be reached.
type Cover struct {
	// Name is the workshop's name for it, such as "intake plenum".
	Name string `json:"name"`
	// Hides lists the places behind the cover: cylinders, banks, coils or the engine.
	Hides []Place `json:"hides,omitzero"`
	// Over names the covers underneath it. It comes off before them.
	Over []string `json:"over,omitzero"`
	// Off and On are the minutes to remove and to refit it.
	Off float64 `json:"off"`
	On  float64 `json:"on"`
	// Gaskets lists the gaskets that must be new when it is refitted.
	Gaskets []string `json:"gaskets,omitzero"`
}

// Cover finds a cover by name.
func (e Engine) Cover(name string) (Cover, bool) {
	i := slices.IndexFunc(e.Covers, func(c Cover) bool { return c.Name == name })
	if i < 0 {
		return Cover{}, false
	}
	return e.Covers[i], true
}

// Behind lists the covers over a place, the outermost first, fitted or not.
func (e Engine) Behind(p Place) []Cover {
	feeds, ok := e.Feeds(p)
	if !ok {
		return nil
	}
	need := map[string]bool{}
	for _, c := range e.Covers {
		if c.hides(e, p, feeds) {
			need[c.Name] = true
		}
	}
	for range e.Covers { // what lies over a cover that must come off
		for _, c := range e.Covers {
			for _, under := range c.Over {
				if need[under] {
					need[c.Name] = true
				}
			}
		}
	}
	var list []Cover
	for len(list) < len(need) { // a cover goes before those it lies over
		for _, c := range e.Covers {
			if need[c.Name] && !slices.ContainsFunc(list, func(l Cover) bool { return l.Name == c.Name }) &&
				!slices.ContainsFunc(e.Covers, func(above Cover) bool {
					return need[above.Name] && slices.Contains(above.Over, c.Name) &&
						!slices.ContainsFunc(list, func(l Cover) bool { return l.Name == above.Name })
				}) {
				list = append(list, c)
			}
		}
	}
	return list
}

// hides reports whether the cover is over a place. A cover over a bank or the engine is over
// each of its cylinders. A cover over one cylinder does not hide what several cylinders share.
func (c Cover) hides(e Engine, p Place, feeds Set) bool {
	return slices.ContainsFunc(c.Hides, func(h Place) bool {
		if h == p || h == Whole {
			return true
		}
		_, bank := h.Bank()
		_, cylinder := p.Cylinder()
		over, ok := e.Feeds(h)
		return ok && bank && cylinder && feeds&^over == 0
	})
}

// Access returns the covers that must still come off to reach a place, and the minutes to
// remove and refit them. off names the covers that are off already.
func (e Engine) Access(p Place, off []string) (covers []Cover, minutes float64) {
	for _, c := range e.Behind(p) {
		if !slices.Contains(off, c.Name) {
			covers = append(covers, c)
			minutes += c.Off + c.On
		}
	}
	return covers, minutes
}

func (e Engine) checkCovers() error {
	var bad invalid.Errors
	if len(e.Covers) > MaxCovers {
		bad.Add("", fmt.Sprintf("at most %d covers", MaxCovers), fmt.Sprint(len(e.Covers)))
		return bad
	}
	seen := map[string]bool{}
	for i, c := range e.Covers {
		path := fmt.Sprintf("[%d]", i)
		bad.Under(path, invalid.Text("name", c.Name, "the name of a cover", MaxCoverName, false))
		if strings.ContainsAny(c.Name, ",;") {
			bad.Add(path+".name", "a name without commas", invalid.Quote(c.Name))
		}
		if seen[c.Name] {
			bad.Add(path+".name", "a name that no other cover has", invalid.Quote(c.Name))
		}
		seen[c.Name] = true
		for field, m := range map[string]float64{"off": c.Off, "on": c.On} {
			if !(m >= 0 && m <= MaxCoverMinutes) || math.IsNaN(m) {
				bad.Add(path+"."+field, fmt.Sprintf("0 to %d minutes", MaxCoverMinutes), fmt.Sprint(m))
			}
		}
		if len(c.Hides)+len(c.Over) == 0 || len(c.Hides)+len(c.Over) > 3*MaxCylinders {
			bad.Add(path+".hides", "what it lies over: cylinders, a bank, a coil, the engine, or another cover", "nothing")
		}
		for k, p := range c.Hides {
			if _, ok := e.Feeds(p); !ok {
				bad.Add(fmt.Sprintf("%s.hides[%d]", path, k), "a place of this engine, such as cyl-1, bank-1, coil-A or engine", invalid.Quote(string(p)))
			}
		}
		for k, name := range c.Over {
			if _, ok := e.Cover(name); !ok {
				bad.Add(fmt.Sprintf("%s.over[%d]", path, k), "the name of another cover of this engine", invalid.Quote(name))
			}
		}
		if len(c.Gaskets) > 8 {
			bad.Add(path+".gaskets", "at most 8 gaskets", fmt.Sprint(len(c.Gaskets)))
		}
		for k, g := range c.Gaskets {
			bad.Under(path, invalid.Text(fmt.Sprintf("gaskets[%d]", k), g, "the name of a gasket", MaxCoverName, false))
		}
	}
	if len(bad) > 0 {
		return bad
	}
	for i, c := range e.Covers {
		if e.liesOver(c.Name, c.Name, map[string]bool{}) {
			bad.Add(fmt.Sprintf("[%d].over", i), "covers that lie below it: a cover cannot hide itself, nor two each other", strings.Join(c.Over, ", "))
		}
	}
	return bad.Err()
}

// liesOver reports whether one cover is over another, directly or over covers between them.
func (e Engine) liesOver(above, below string, seen map[string]bool) bool {
	c, _ := e.Cover(above)
	for _, under := range c.Over {
		if under == below {
			return true
		}
		if !seen[under] {
			seen[under] = true
			if e.liesOver(under, below, seen) {
				return true
			}
		}
	}
	return false
}
