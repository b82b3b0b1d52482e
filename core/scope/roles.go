package scope

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Role is what a channel shows: the voltage of some cylinders, or the sync of cylinder 1. The zero role is not known.
type Role struct {
	Cylinders engine.Set
	Sync      bool
	// Off is true for a channel that is left out.
	Off bool
}

// Known reports whether the role is known.
func (r Role) Known() bool { return r.Sync || r.Off || r.Cylinders != 0 }

var (
	cylinderName = regexp.MustCompile(`(?i)(?:^|[^a-z])(?:cyl(?:inder)?s?|zyl(?:inder)?|plug|spark|ign(?:ition)?)[ ._:#-]*(\d{1,2}(?:[ ,+/&-]+\d{1,2})*)\b`)
	hashName     = regexp.MustCompile(`^\s*#\s*(\d{1,2})\b`)
	bankName     = regexp.MustCompile(`(?i)\bbank[ ._:#-]*([12]|a|b|left|right)\b`)
	syncName     = regexp.MustCompile(`(?i)sync|trig|\btdc\b|\bcam\b|\bref(erence)?\b`)
	allName      = regexp.MustCompile(`(?i)\ball\b|king|coil lead|common|secondary`)
	numbers      = regexp.MustCompile(`\d+`)
)

// Roles returns what each channel shows on an engine, as far as the names and the content tell. known is true if that
// is enough to assign the events; otherwise somebody who saw the clamps has to say it.
func (t *Trace) Roles(e engine.Engine) (roles []Role, known bool) {
	roles = make([]Role, len(t.Channels))
	misnamed := false // for a cylinder that the engine does not have
	for i, c := range t.Channels {
		roles[i] = roleByName(e, c.Name)
		misnamed = misnamed || !roles[i].Known() && (cylinderName.MatchString(c.Name) || hashName.MatchString(c.Name))
		if !changes(c.Samples) {
			roles[i] = Role{Off: true} // blank
		}
	}
	if e.Cylinders == 1 {
		for i := range roles {
			if !roles[i].Known() && !slices.ContainsFunc(roles, func(r Role) bool { return r.Cylinders != 0 }) {
				roles[i].Cylinders = e.Everything()
			}
		}
	}
	if !misnamed {
		t.byContent(e, roles)
	}
	shown := slices.ContainsFunc(roles, func(r Role) bool { return r.Cylinders != 0 })
	return roles, shown && !slices.ContainsFunc(roles, func(r Role) bool { return !r.Known() })
}

// changes reports whether a channel is not constant.
func changes(v []Half) bool {
	return len(v) > 0 && slices.ContainsFunc(v, func(x Half) bool { return x != v[0] })
}

// roleByName reads the role from the name of a channel.
func roleByName(e engine.Engine, name string) Role {
	if m := bankName.FindStringSubmatch(name); m != nil && e.Banks() > 1 {
		second := slices.Contains([]string{"2", "b", "right"}, strings.ToLower(m[1]))
		return Role{Cylinders: e.BankSet(1 + map[bool]int{true: 1}[second])}
	}
	if syncName.MatchString(name) {
		return Role{Sync: true}
	}
	m := cylinderName.FindStringSubmatch(name)
	if m == nil {
		m = hashName.FindStringSubmatch(name)
	}
	if m != nil {
		var set engine.Set
		for _, n := range numbers.FindAllString(m[1], -1) {
			c, err := strconv.Atoi(n)
			if err != nil || c < 1 || c > e.Cylinders {
				return Role{}
			}
			set |= engine.SetOf(engine.Cylinder(c))
		}
		return Role{Cylinders: set}
	}
	if allName.MatchString(name) {
		return Role{Cylinders: e.Everything()}
	}
	return Role{}
}

// byContent adds the roles that the content shows: a channel with one pulse where another has an event of every cylinder is
// the sync, and the other shows all cylinders.
func (t *Trace) byContent(e engine.Engine, roles []Role) {
	sync, open := -1, -1
	for i, r := range roles {
		switch {
		case r.Sync:
			sync = i
		case !r.Known():
			if open >= 0 {
				open = -2 // two are not known
			} else if open == -1 {
				open = i
			}
		}
	}
	kV := 0
	for _, r := range roles {
		if !r.Sync && !r.Off {
			kV++
		}
	}
	switch {
	case e.Cylinders < 2:
	case open >= 0 && kV == 1 && sync < 0:
		roles[open].Cylinders = e.Everything() // a lone channel is usually on all; the page shows it and lets it be changed
	case open >= 0 && kV == 1 && sync >= 0:
		roles[open].Cylinders = t.perPulse(open, sync, e)
	case open == -2 && len(roles) == 2 && sync < 0:
		for i := range roles {
			if set := t.perPulse(i, 1-i, e); set == e.Everything() {
				roles[i].Cylinders, roles[1-i].Sync = set, true
				return
			}
		}
	}
}

// perPulse returns the cylinders of a channel by the number of its events in one cycle of a sync: all, or none if the number
// is another one.
func (t *Trace) perPulse(channel, sync int, e engine.Engine) engine.Set {
	pulses := t.Syncs(sync)
	events, _ := t.listen(channel)
	if len(pulses) < 2 || len(events) == 0 {
		return 0
	}
	inside := 0
	for _, ev := range events {
		if ev.At >= pulses[0] && ev.At < pulses[len(pulses)-1] {
			inside++
		}
	}
	per := float64(inside) / float64(len(pulses)-1)
	n := float64(e.Cylinders)
	if e.Ignition == engine.WastedSpark {
		n *= 2 // the idle events as well
	}
	if per > 0.6*n && per < 1.4*n {
		return e.Everything()
	}
	return 0
}

// The text of the roles without cylinders.
const (
	roleSync = "sync"
	roleOff  = "off"
)

// Text returns the role as text: "cyl-3", "cyl-1+3", "bank-1", "engine", "sync", "off", or "" if it is not known.
func (r Role) Text(e engine.Engine) string {
	switch {
	case r.Sync:
		return roleSync
	case r.Off:
		return roleOff
	case r.Cylinders == 0:
		return ""
	case r.Cylinders == e.Everything() && e.Cylinders > 1:
		return string(engine.Whole)
	}
	for bank := 1; bank <= e.Banks() && e.Banks() > 1; bank++ {
		if r.Cylinders == e.BankSet(bank) {
			return string(engine.AtBank(bank))
		}
	}
	var numbers []string
	for _, c := range r.Cylinders.List() {
		numbers = append(numbers, strconv.Itoa(int(c)))
	}
	return "cyl-" + strings.Join(numbers, "+")
}

// ParseRole reads the text of a role. Errors are [invalid.Error].
func ParseRole(e engine.Engine, s string) (Role, error) {
	switch s {
	case roleSync:
		return Role{Sync: true}, nil
	case roleOff:
		return Role{Off: true}, nil
	}
	if list, ok := strings.CutPrefix(s, "cyl-"); ok {
		var set engine.Set
		for n := range strings.SplitSeq(list, "+") {
			c, err := parseCylinder(n)
			if err != nil || int(c) > e.Cylinders || set.Has(c) {
				set = 0
				break
			}
			set |= engine.SetOf(c)
		}
		if set != 0 {
			return Role{Cylinders: set}, nil
		}
	} else if feeds, ok := e.Feeds(engine.Place(s)); ok && (s == string(engine.Whole) || strings.HasPrefix(s, "bank-")) {
		return Role{Cylinders: feeds}, nil
	}
	return Role{}, invalid.Error{Expected: "a cylinder such as cyl-1, a bank such as bank-1, engine, sync or off", Got: invalid.Quote(s)}
}

// RolesText joins the roles of all channels: "cyl-1,cyl-3,sync".
func RolesText(e engine.Engine, roles []Role) string {
	text := make([]string, len(roles))
	for i, r := range roles {
		text[i] = r.Text(e)
	}
	return strings.Join(text, ",")
}

// ParseRoles reads what [RolesText] wrote; "" is no statement. Each cylinder can have one channel, and one channel can be the
// sync. Errors are [invalid.Errors] with the index of a channel.
func ParseRoles(e engine.Engine, s string) ([]Role, error) {
	if s == "" {
		return nil, nil
	}
	var bad invalid.Errors
	list := strings.Split(s, ",")
	if len(list) > MaxChannels {
		bad.Add("", fmt.Sprintf("at most %d channels", MaxChannels), strconv.Itoa(len(list)))
		return nil, bad
	}
	roles := make([]Role, len(list))
	var shown engine.Set
	synced := false
	for i, text := range list {
		path := fmt.Sprintf("[%d]", i)
		r, err := ParseRole(e, text)
		switch {
		case err != nil:
			bad.Under(path, err)
		case r.Cylinders&shown != 0:
			bad.Add(path, "each cylinder on one channel", (r.Cylinders&shown).String()+" on two")
		case r.Sync && synced:
			bad.Add(path, "one sync", "two")
		}
		roles[i] = r
		shown |= r.Cylinders
		synced = synced || r.Sync
	}
	if len(bad) == 0 && shown == 0 {
		bad.Add("", "at least one channel that shows cylinders", "none")
	}
	return roles, bad.Err()
}

func parseCylinder(s string) (engine.Cylinder, error) {
	n, err := strconv.Atoi(s)
	if err != nil || n < 1 || n > engine.MaxCylinders || strconv.Itoa(n) != s {
		return 0, invalid.Error{Expected: fmt.Sprintf("a cylinder from 1 to %d", engine.MaxCylinders), Got: invalid.Quote(s)}
	}
	return engine.Cylinder(n), nil
}
