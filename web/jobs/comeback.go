package jobs

import (
	"context"
	"fmt"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/shop"
	"glenmist/web/page"
)

// Comeback carries the evidence of an earlier job into one of the same vehicle on the same trouble. The error
// is [invalid.Errors] if the earlier job is of another vehicle or not earlier.
func Comeback(ctx context.Context, app *page.App, set shop.Settings, j job.Job, number string) (evidence.Comeback, error) {
	rec, err := app.Jobs.Job(ctx, number)
	if err != nil {
		return evidence.Comeback{}, err
	}
	if old := rec.Job; old.Vehicle.Fleet != j.Vehicle.Fleet || old.Opened.After(j.Opened) || old.Number == j.Number {
		return evidence.Comeback{}, invalid.Errors{{Field: "comeback", Expected: "an earlier job of " + j.Vehicle.Fleet, Got: fmt.Sprintf("%s of %s", number, old.Vehicle.Fleet)}}
	}
	return plan.ComebackOf(rec.Job, diagnose.AssessBy(set.Beliefs(), rec.Job), j.Opened, j.Distance), nil
}
