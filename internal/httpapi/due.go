package httpapi

import (
	"context"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/due"
)

// duePage is how many bikes a page of the list of what is due has where nobody says.
const duePage = 50

func (a *api) ListDue(ctx context.Context, req apigen.ListDueRequestObject) (apigen.ListDueResponseObject, error) {
	p := req.Params
	f := due.DueFilter{State: string(valueOr(p.State, "")), Within: p.Within, Upcoming: valueOr(p.Upcoming, false), Customer: p.Customer, Quiet: valueOr(p.Quiet, false), After: valueOr(p.After, ""), Limit: valueOr(p.Limit, duePage)}
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

func (t typed) WriteHeader(status int) {
	t.Header().Set("Content-Type", "text/calendar; charset=utf-8")
	t.ResponseWriter.WriteHeader(status)
}

func (a *api) ListStockNeeds(ctx context.Context, _ apigen.ListStockNeedsRequestObject) (apigen.ListStockNeedsResponseObject, error) {
	needs, err := a.Shop.StockNeeds(ctx)
	return apigen.ListStockNeeds200JSONResponse(needs), err
}

func (a *api) PreviewDue(ctx context.Context, req apigen.PreviewDueRequestObject) (apigen.PreviewDueResponseObject, error) {
	preview, err := a.Shop.PreviewDue(ctx, *req.Body)
	return apigen.PreviewDue200JSONResponse(preview), err
}
