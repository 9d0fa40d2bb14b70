package httpapi

import (
	"bytes"
	"context"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/record"
)

func (a *api) ListReports(ctx context.Context, req apigen.ListReportsRequestObject) (apigen.ListReportsResponseObject, error) {
	rows, err := a.Shop.OwnerReports(ctx, req.Tag)
	return apigen.ListReports200JSONResponse(rows), err
}

func (a *api) ListWaiting(ctx context.Context, _ apigen.ListWaitingRequestObject) (apigen.ListWaitingResponseObject, error) {
	waiting, err := a.Shop.Waiting(ctx, actor(ctx))
	return apigen.ListWaiting200JSONResponse(waiting), err
}

func (a *api) DecideReport(ctx context.Context, req apigen.DecideReportRequestObject) (apigen.DecideReportResponseObject, error) {
	return apigen.DecideReport204Response{}, a.Shop.DecideReport(ctx, actor(ctx), req.Report, req.Body.Confirm, valueOr(req.Body.NewComputer, false))
}

func (a *api) DraftRecall(ctx context.Context, req apigen.DraftRecallRequestObject) (apigen.DraftRecallResponseObject, error) {
	m, err := a.Shop.DraftRecall(ctx, actor(ctx), req.Tag)
	return apigen.DraftRecall201JSONResponse(m), err
}

func (a *api) ListMessages(ctx context.Context, req apigen.ListMessagesRequestObject) (apigen.ListMessagesResponseObject, error) {
	page, err := a.Shop.Messages(ctx, req.Params.After, valueOr(req.Params.Limit, pageOfBikes))
	return apigen.ListMessages200JSONResponse(page), err
}

func (a *api) DoMessage(ctx context.Context, req apigen.DoMessageRequestObject) (apigen.DoMessageResponseObject, error) {
	m, err := a.Shop.DoMessage(ctx, actor(ctx), req.Message, *req.Body)
	return apigen.DoMessage200JSONResponse(m), err
}

func (a *api) ListReceived(ctx context.Context, _ apigen.ListReceivedRequestObject) (apigen.ListReceivedResponseObject, error) {
	all, err := a.Shop.Received(ctx)
	return apigen.ListReceived200JSONResponse(all), err
}

func (a *api) ReplyToMessage(ctx context.Context, req apigen.ReplyToMessageRequestObject) (apigen.ReplyToMessageResponseObject, error) {
	stopped, err := a.Shop.Reply(ctx, actor(ctx), req.Body.From, req.Body.Text)
	return apigen.ReplyToMessage201JSONResponse{Stopped: stopped}, err
}

func (a *api) ListLinks(ctx context.Context, req apigen.ListLinksRequestObject) (apigen.ListLinksResponseObject, error) {
	links, err := a.Shop.Links(ctx, valueOr(req.Params.Tag, ""))
	return apigen.ListLinks200JSONResponse(links), err
}

func (a *api) GiveLink(ctx context.Context, req apigen.GiveLinkRequestObject) (apigen.GiveLinkResponseObject, error) {
	l, err := a.Shop.GiveLink(ctx, actor(ctx), *req.Body)
	if err != nil {
		return nil, err
	}
	l.Code, err = codeOf(l.URL)
	return apigen.GiveLink201JSONResponse(l), err
}

func (a *api) WithdrawLink(ctx context.Context, req apigen.WithdrawLinkRequestObject) (apigen.WithdrawLinkResponseObject, error) {
	return apigen.WithdrawLink204Response{}, a.Shop.WithdrawLink(ctx, actor(ctx), req.Link)
}

func (a *api) GetOwnerPage(ctx context.Context, req apigen.GetOwnerPageRequestObject) (apigen.GetOwnerPageResponseObject, error) {
	p, err := a.Shop.OwnerPage(ctx, req.Token)
	return apigen.GetOwnerPage200JSONResponse(p), err
}

func (a *api) TellShop(ctx context.Context, req apigen.TellShopRequestObject) (apigen.TellShopResponseObject, error) {
	key, ok := keyOf(request(ctx))
	if !ok {
		return nil, &record.Problem{Kind: record.Invalid, Code: "invalid-input", Message: "The Idempotency-Key is 8 to 100 plain characters."}
	}
	if err := a.Shop.Report(ctx, req.Token, key, *req.Body); err != nil {
		return nil, err
	}
	p, err := a.Shop.OwnerPage(ctx, req.Token)
	return apigen.TellShop201JSONResponse(p), err
}

// calendar serves the feeds that calendar programs ask for by secret address.
func (a *api) calendar(c *gin.Context) {
	token, is := strings.CutSuffix(c.Param("file"), ".ics")
	if !is {
		c.Status(http.StatusNotFound)
		return
	}
	feed, err := a.Shop.Calendar(c.Request.Context(), token)
	if err != nil {
		fail(c, err)
		return
	}
	markOf(c, feed.Text)
	http.ServeContent(typed{c.Writer}, c.Request, "", feed.Changed, bytes.NewReader(feed.Text)) // conditional requests and HEAD
}

// typed keeps a feed's own type.
type typed struct{ gin.ResponseWriter }
