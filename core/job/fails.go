package job

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/evidence"
)

// Fails says in words when the vehicle fails, as the driver said it: "under load".
func (j Job) Fails() string {
	if slices.Contains(j.Signs, evidence.AlwaysThere) {
		return evidence.AlwaysThere.Words()
	}
	return j.FailsWhen.Words()
}

// Failing is the job where it was learned later when the vehicle fails: one of
// [evidence.Conditions], or [evidence.AlwaysThere]. What was said before stays in the complaint, with
// who says otherwise. The error says what was expected.
func (j Job) Failing(when, by string) (Job, error) {
	was := j.Fails()
	j.Signs = slices.DeleteFunc(slices.Clone(j.Signs), func(s evidence.Sign) bool { return s == evidence.AlwaysThere })
	if j.FailsWhen = evidence.Condition(when); when == string(evidence.AlwaysThere) {
		j.FailsWhen, j.Signs = evidence.AnyCondition, append(j.Signs, evidence.AlwaysThere)
	}
	if len(j.Signs) == 0 {
		j.Signs = nil
	}
	if now := j.Fails(); now != was {
		j.Complaint = strings.TrimRight(j.Complaint, " ") + fmt.Sprintf(" [When it fails: %s, not %s. %s]", now, was, by)
	}
	return j, j.Validate()
}
