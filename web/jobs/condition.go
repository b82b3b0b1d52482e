package jobs

import (
	"glenmist/core/evidence"
	"glenmist/web/page"
)

// Conditions are the running conditions that something can be seen in.
func Conditions() []page.Choice {
	var all []page.Choice
	for _, row := range evidence.Conditions {
		all = append(all, page.Choice{Value: string(row.Condition), Words: row.Words})
	}
	return all
}

// Failings are the conditions, and that it is always there.
func Failings() []page.Choice {
	return append(Conditions(), page.Choice{Value: string(evidence.AlwaysThere), Words: evidence.AlwaysThere.Words()})
}

func certainties() []page.Choice {
	var all []page.Choice
	for _, row := range evidence.Certainties {
		all = append(all, page.Choice{Value: string(row.Certainty), Words: row.Words})
	}
	return all
}
