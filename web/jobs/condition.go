package jobs

import (
	"glenmist/core/evidence"
	"glenmist/web/page"
)

// Conditions lists the running conditions of an observation.
func Conditions() []page.Choice {
	var all []page.Choice
	for _, row := range evidence.Conditions {
		all = append(all, page.Choice{Value: string(row.Condition), Words: row.Words})
	}
	return all
}

// Failings lists the conditions, and "always".
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
