package httpapi

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/due"
	"earnestpony/internal/shop/record"
)

// duePage is how many bikes a page of the list of what is due has where nobody says.
const duePage = 50

func (a *api) ListDue(ctx context.Context, req apigen.ListDueRequestObject) (apigen.ListDueResponseObject, error) {
	p := req.Params
	f := due.DueFilter{State: string(valueOr(p.State, "")), Within: p.Within, Customer: p.Customer, Quiet: valueOr(p.Quiet, false), After: valueOr(p.After, ""), Limit: valueOr(p.Limit, duePage)}
	page, err := a.Shop.DueList(ctx, f)
	return apigen.ListDue200JSONResponse(page), err
}

func (a *api) GetBikeDue(ctx context.Context, req apigen.GetBikeDueRequestObject) (apigen.GetBikeDueResponseObject, error) {
	due, err := a.Shop.BikeDue(ctx, req.Tag)
	return apigen.GetBikeDue200JSONResponse(due), err
}

func (a *api) DoTask(ctx context.Context, req apigen.DoTaskRequestObject) (apigen.DoTaskResponseObject, error) {
	if err := a.Shop.TaskDone(ctx, actor(ctx), req.Tag, req.Task, valueOr(req.Body.Note, ""), req.Body.DoneAt); err != nil {
		return nil, err
	}
	due, err := a.Shop.BikeDue(ctx, req.Tag)
	return apigen.DoTask201JSONResponse(due), err
}

func (a *api) ReportEvent(ctx context.Context, req apigen.ReportEventRequestObject) (apigen.ReportEventResponseObject, error) {
	if err := a.Shop.ReportEvent(ctx, actor(ctx), req.Tag, req.Body.Event, valueOr(req.Body.Note, ""), req.Body.HappenedAt); err != nil {
		return nil, err
	}
	due, err := a.Shop.BikeDue(ctx, req.Tag)
	return apigen.ReportEvent201JSONResponse(due), err
}

func (a *api) ListReports(ctx context.Context, req apigen.ListReportsRequestObject) (apigen.ListReportsResponseObject, error) {
	rows, err := a.Shop.OwnerReports(ctx, req.Tag)
	return apigen.ListReports200JSONResponse(rows), err
}

func (a *api) DecideReport(ctx context.Context, req apigen.DecideReportRequestObject) (apigen.DecideReportResponseObject, error) {
	return apigen.DecideReport204Response{}, a.Shop.DecideReport(ctx, actor(ctx), req.Report, req.Body.Confirm, valueOr(req.Body.NewComputer, false))
}

func (a *api) DraftRecall(ctx context.Context, req apigen.DraftRecallRequestObject) (apigen.DraftRecallResponseObject, error) {
	m, err := a.Shop.DraftRecall(ctx, actor(ctx), req.Tag)
	return apigen.DraftRecall201JSONResponse(m), err
}

func (a *api) ListMessages(ctx context.Context, _ apigen.ListMessagesRequestObject) (apigen.ListMessagesResponseObject, error) {
	all, err := a.Shop.Messages(ctx)
	return apigen.ListMessages200JSONResponse(all), err
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

func (t typed) WriteHeader(status int) {
	t.Header().Set("Content-Type", "text/calendar; charset=utf-8")
	t.ResponseWriter.WriteHeader(status)
}

func (a *api) ListRideDrafts(ctx context.Context, req apigen.ListRideDraftsRequestObject) (apigen.ListRideDraftsResponseObject, error) {
	drafts, err := a.Shop.RideDrafts(ctx, req.Tag)
	return apigen.ListRideDrafts200JSONResponse(drafts), err
}

func (a *api) AnswerRides(ctx context.Context, req apigen.AnswerRidesRequestObject) (apigen.AnswerRidesResponseObject, error) {
	file, err := a.Shop.AnswerRides(ctx, actor(ctx), req.Draft, req.Body.Answers)
	return apigen.AnswerRides201JSONResponse(file), err
}

func (a *api) DropRides(ctx context.Context, req apigen.DropRidesRequestObject) (apigen.DropRidesResponseObject, error) {
	return apigen.DropRides204Response{}, a.Shop.DropRides(ctx, actor(ctx), req.Draft)
}

func (a *api) ImportRides(ctx context.Context, req apigen.ImportRidesRequestObject) (apigen.ImportRidesResponseObject, error) {
	data, err := io.ReadAll(req.Body)
	if err != nil {
		return nil, err
	}
	file, err := a.Shop.ImportRides(ctx, actor(ctx), req.Tag, req.Params.Name, data)
	return apigen.ImportRides201JSONResponse(file), err
}
