package e2e

import (
	"context"
	"encoding/json"
	"strings"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/chromedp"
)

// named finds an element by its role and its accessible name, as a screen reader
// is told them and as docs/interface.md lists them; no journey needs a style
// class. A name that is matched whole goes before one that only begins so.
func named(role, name string) chromedp.QueryOption {
	return chromedp.ByFunc(func(ctx context.Context, t *chromedp.Target, root *chromedp.Node) ([]cdp.NodeID, error) {
		tree, err := cdp.Call(ctx, t, accessibility.QueryAXTree, accessibility.QueryAXTreeParams{NodeID: root.NodeID, Role: role})
		if err != nil {
			return nil, err
		}
		var found []cdp.BackendNodeID
		for _, n := range tree.Nodes {
			if n.Ignored || n.Name == nil || n.BackendDOMNodeID == 0 {
				continue
			}
			var text string
			if err := json.Unmarshal([]byte(n.Name.Value), &text); err != nil {
				continue
			}
			switch {
			case text == name:
				found = append([]cdp.BackendNodeID{n.BackendDOMNodeID}, found...)
			case strings.HasPrefix(text, name):
				found = append(found, n.BackendDOMNodeID)
			}
		}
		if len(found) == 0 {
			return nil, nil // the query tries again
		}
		pushed, err := cdp.Call(ctx, t, dom.PushNodesByBackendIDsToFrontend, dom.PushNodesByBackendIDsToFrontendParams{BackendNodeIDs: found[:1]})
		return pushed.NodeIDs, err
	})
}
