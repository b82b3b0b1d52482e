package diagnose

import "glenmist/core/infer"

// Rest drops what is only kept to compute more, so that an assessment that is kept needs less memory. What is asked of it later
// is the same, and takes longer the first time.
func (a *Assessment) Rest() {
	w := a.weighing
	w.solver, w.referred = infer.NewSolver(w.model), false
}
