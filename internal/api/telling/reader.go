package telling

import (
	"context"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"latelantern/internal/api/edge"
	corenews "latelantern/internal/core/news"
	"latelantern/internal/roster"
)

// Wish is how often someone wants mail of what is new.
type Wish struct {
	Often string `json:"often" enum:"at_once,daily,weekly,never"`
}

// OfKey is the input of operations for whoever holds the address of a mail.
type OfKey struct {
	Key string `path:"key" maxLength:"100"`
}

type stopChange struct {
	OfKey
	Body Wish
}

func (a *API) readerRoutes() {
	edge.On(a.Edge, edge.SignedIn, http.MethodGet, "/api/account/news", "news-wish",
		"How often one wants mail of what is new",
		func(ctx context.Context, p roster.Person, _ *edge.Empty) (*edge.Body[Wish], error) {
			return a.wish(ctx, p.ID)
		})
	edge.On(a.Edge, edge.SignedIn, http.MethodPut, "/api/account/news", "set-news-wish",
		"Change how often one wants mail of what is new",
		func(ctx context.Context, p roster.Person, in *edge.Body[Wish]) (*edge.Empty, error) {
			return nil, a.News.SetWish(ctx, p.ID, corenews.Often(in.Body.Often))
		}, edge.Changes("news wish"))
	edge.On(a.Edge, edge.Holders, http.MethodGet, "/api/stop/{key}", "stop",
		"How often whoever holds the address of a mail wants any",
		func(ctx context.Context, _ roster.Person, in *OfKey) (*edge.Body[Wish], error) {
			person, err := a.News.Behind(ctx, in.Key)
			if err != nil {
				return nil, err
			}
			return a.wish(ctx, person)
		})
	edge.On(a.Edge, edge.Holders, http.MethodPut, "/api/stop/{key}", "set-stop",
		"Change that, without signing in",
		func(ctx context.Context, _ roster.Person, in *stopChange) (*edge.Empty, error) {
			person, err := a.News.Behind(ctx, in.Key)
			if err != nil {
				return nil, err
			}
			return nil, a.News.SetWish(ctx, person, corenews.Often(in.Body.Often))
		}, edge.Changes("news wish"))
	a.Plain(edge.Holders, http.MethodPost, "/stop/:key", a.oneClick)
	a.Plain(edge.Anyone, http.MethodGet, "/stop/:key", a.Page)
}

func (a *API) wish(ctx context.Context, person uuid.UUID) (*edge.Body[Wish], error) {
	often, err := a.News.Wish(ctx, person)
	return edge.Answer(Wish{string(often)}), err
}

// oneClick stops mails at the press of a button of a mail program (RFC 8058), which follows no redirection and signs
// nobody in.
func (a *API) oneClick(c *gin.Context) {
	ctx := c.Request.Context()
	person, err := a.News.Behind(ctx, c.Param("key"))
	if err == nil {
		err = a.News.SetWish(ctx, person, corenews.Never)
	}
	if err != nil {
		a.Refuse(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}
