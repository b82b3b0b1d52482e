package capture

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/scope"
	"glenmist/web/page"
)

// channelQuestion asks what a channel shows, with a picture of it.
type channelQuestion struct {
	Number int // from 1
	Name   string
	Field  string
	Events string
	Chosen string
	// Path is the outline of the first part of the channel in a box of channelWidth by channelHeight.
	Path    string
	Choices []page.Choice
}

// Size of the picture of a channel, and the part of the capture that it shows, in seconds: a few cycles at idle.
const (
	channelWidth   = 560
	channelHeight  = 64
	channelSeconds = 0.5
)

// channelQuestions lists the channels of a capture with more than one, or with one whose cylinders are not certain.
func channelQuestions(l *loaded, read *reading, e engine.Engine) []channelQuestion {
	if len(l.trace.Channels) < 2 && read.a.By != scope.ByUnknown && read.a.By != scope.ByCount {
		return nil
	}
	var all []channelQuestion
	for i, c := range l.trace.Channels {
		q := channelQuestion{Number: i + 1, Name: c.Name, Field: fmt.Sprintf("channel%d", i), Choices: channelChoices(e)}
		if i < len(read.a.Roles) {
			q.Chosen = read.a.Roles[i].Text(e)
		}
		q.Events = fmt.Sprintf("%d events", len(l.trace.Events(i)))
		n := min(len(c.Samples), int(channelSeconds*l.trace.Rate))
		low, high := l.pyramids[i].Window(0, n, channelWidth)
		q.Path = outline(low, high)
		all = append(all, q)
	}
	return all
}

// orderOfChannels says in which order the channels fire, beside the firing order, if each has about as many events.
func orderOfChannels(l *loaded, e engine.Engine) string {
	type first struct {
		channel int
		at      float64
	}
	var firsts []first
	if len(l.trace.Channels) != e.Cylinders || e.Cylinders < 3 {
		return ""
	}
	start := 0.0
	for i := range l.trace.Channels {
		events := l.trace.Events(i)
		if len(events) < 3 {
			return ""
		}
		if i == 0 {
			start = events[1].At
		}
		k := slices.IndexFunc(events, func(ev scope.Event) bool { return ev.At >= start })
		if k < 0 {
			return ""
		}
		firsts = append(firsts, first{i + 1, events[k].At})
	}
	slices.SortFunc(firsts, func(a, b first) int { return cmp.Compare(a.at, b.at) })
	var order, want []string
	for _, f := range firsts {
		order = append(order, strconv.Itoa(f.channel))
	}
	for _, c := range e.FiringOrder {
		want = append(want, strconv.Itoa(int(c)))
	}
	return fmt.Sprintf("The channels fire in the order %s. The firing order of the engine is %s.", strings.Join(order, "-"), strings.Join(want, "-"))
}

// outline draws the lowest and highest value of each column as one path, scaled to the picture.
func outline(low, high []float32) string {
	if len(low) == 0 {
		return ""
	}
	least, most := low[0], high[0]
	for i := range low {
		least, most = min(least, low[i]), max(most, high[i])
	}
	y := func(v float32) float64 {
		if most == least {
			return channelHeight / 2
		}
		return 2 + (channelHeight-4)*float64(most-v)/float64(most-least)
	}
	var b strings.Builder
	for i := range low {
		fmt.Fprintf(&b, "M%d %.1fV%.1f", i, y(high[i]), y(low[i])+0.5)
	}
	return b.String()
}

// channelChoices lists what a channel of an engine can show.
func channelChoices(e engine.Engine) []page.Choice {
	all := []page.Choice{{Value: "", Words: "not known"}}
	for _, c := range e.All() {
		all = append(all, page.Choice{Value: string(engine.At(c)), Words: fmt.Sprintf("cylinder %d", c)})
	}
	if e.Cylinders > 1 {
		all = append(all, page.Choice{Value: string(engine.Whole), Words: "all cylinders"})
	}
	for bank := 1; bank <= e.Banks() && e.Banks() > 1; bank++ {
		all = append(all, page.Choice{Value: string(engine.AtBank(bank)), Words: fmt.Sprintf("bank %d", bank)})
	}
	return append(all, page.Choice{Value: "sync", Words: "sync of cylinder 1"}, page.Choice{Value: "off", Words: "nothing: leave it out"})
}

// channelsTyped reads the answers.
func channelsTyped(e engine.Engine, typed url.Values) (string, invalid.Errors) {
	var list []string
	var bad invalid.Errors
	for i := 0; typed.Has(fmt.Sprintf("channel%d", i)) && i < scope.MaxChannels; i++ {
		value := typed.Get(fmt.Sprintf("channel%d", i))
		if value == "" {
			bad.Add(fmt.Sprintf("channel%d", i), "what this channel shows; choose “nothing” to leave it out", "not known")
		}
		list = append(list, value)
	}
	if len(bad) > 0 {
		return "", bad
	}
	text := strings.Join(list, ",")
	roles, err := scope.ParseRoles(e, text)
	if err == nil && roles == nil {
		err = invalid.Error{Expected: "what each channel shows", Got: "nothing"}
	}
	for _, one := range invalid.From(err) {
		field := "channel0"
		var i int
		if _, e := fmt.Sscanf(one.Field, "[%d]", &i); e == nil {
			field = fmt.Sprintf("channel%d", i)
		}
		bad.Add(field, one.Expected, one.Got)
	}
	return text, bad
}
