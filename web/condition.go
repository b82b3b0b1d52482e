package web

import "glenmist/core/evidence"

type conditionChoice struct{ Value, Words string }

func conditions() []conditionChoice {
	var all []conditionChoice
	for _, row := range evidence.Conditions {
		all = append(all, conditionChoice{string(row.Condition), row.Words})
	}
	return all
}

// failings are the conditions, and that it is always there.
func failings() []conditionChoice {
	return append(conditions(), conditionChoice{string(evidence.AlwaysThere), evidence.AlwaysThere.Words()})
}

func certainties() []conditionChoice {
	var all []conditionChoice
	for _, row := range evidence.Certainties {
		all = append(all, conditionChoice{string(row.Certainty), row.Words})
	}
	return all
}
