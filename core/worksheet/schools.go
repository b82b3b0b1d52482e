package worksheet

// School is a question on which good practitioners disagree and whose answer changes the worksheet. The
// maker's instructions take precedence over every answer.
type School struct {
	ID, Ask string
	// Options lists the answers; the first is the default.
	Options []Option
	Source  string
}

// Option is one answer.
type Option struct{ ID, Words string }

// Schools lists the questions (C: where practitioners disagree).
var Schools = []School{
	{"paste", "Paste on plug threads?", []Option{{"finish", "by finish: bare or dark shells yes, bright plated no"}, {"never", "never"}, {"always", "always a dab on an alloy head"}}, "C"},
	{"heat", "Engine cold or warm to pull plugs?", []Option{{"cold", "cold"}, {"warm", "warm, hours after a drive"}}, "C: cold on alloy heads; warm where carbon has seized the plug"},
	{"torque", "Torque by wrench or by angle?", []Option{{"wrench", "by wrench"}, {"angle", "by turn angle"}}, "C"},
	{"gap", "Gap of new fine-wire plugs?", []Option{{"inspect", "inspect only"}, {"gently", "adjust gently, at the ground strap only"}}, "C"},
	{"boots", "Boots new with the plugs?", []Option{{"mark", "by age and mark"}, {"set", "with every set"}}, "C"},
	{"battery", "Battery off?", []Option{{"harness", "only for work on the harness"}, {"always", "always"}}, "C"},
	{"distributor", "Distributor out, or only turned?", []Option{{"stay", "left in, and the housing turned"}, {"out", "out and in: it is a tooth off, or it is renewed"}}, "C"},
	{"refit", "Refit one cylinder at a time?", []Option{{"all", "all at once, then one start"}, {"single", "one at a time, with a start after each"}}, "C"},
}

// FindSchool finds a question by its id.
func FindSchool(id string) (School, bool) {
	for _, s := range Schools {
		if s.ID == id {
			return s, true
		}
	}
	return School{}, false
}

// Words returns the words of an answer, "" for an unknown one.
func (s School) Words(option string) string {
	for _, o := range s.Options {
		if o.ID == option {
			return o.Words
		}
	}
	return ""
}

// SchoolOf returns the answer to a question that holds for a case: chosen on its worksheet, set by the
// workshop, or the default.
func SchoolOf(c Case, id string) string { return (&builder{Case: c}).school(id) }

// school returns the answer to a question: chosen on this worksheet, set by the workshop, or the
// default.
func (b *builder) school(id string) string {
	s, _ := FindSchool(id)
	if here := b.chosen("school." + id); s.Words(here) != "" {
		return here
	}
	if own := b.Schools[id]; s.Words(own) != "" {
		return own
	}
	return s.Options[0].ID
}
