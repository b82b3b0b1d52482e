package diagnose

import "glenmist/core/infer"

// Rest empties the solver's caches, which take more than half of the memory. Later calls return the same figures and fill the
// caches again.
func (a *Assessment) Rest() {
	w := a.weighing
	w.solver, w.referred = infer.NewSolver(w.model), false
}
