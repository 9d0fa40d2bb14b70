package httpapi

import (
	"context"

	"earnestpony/internal/httpapi/apigen"
)

func (a *api) GetRules(ctx context.Context, _ apigen.GetRulesRequestObject) (apigen.GetRulesResponseObject, error) {
	rules, err := a.Shop.CurrentRules(ctx)
	return apigen.GetRules200JSONResponse(rules), err
}

func (a *api) ChangeRules(ctx context.Context, req apigen.ChangeRulesRequestObject) (apigen.ChangeRulesResponseObject, error) {
	rules, err := a.Shop.ChangeRules(ctx, actor(ctx), req.Body.Version, req.Body.Rules)
	return apigen.ChangeRules200JSONResponse(rules), err
}

func (a *api) PreviewRules(ctx context.Context, req apigen.PreviewRulesRequestObject) (apigen.PreviewRulesResponseObject, error) {
	preview, err := a.Shop.PreviewRules(ctx, *req.Body)
	return apigen.PreviewRules200JSONResponse(preview), err
}

func (a *api) PreviewDue(ctx context.Context, req apigen.PreviewDueRequestObject) (apigen.PreviewDueResponseObject, error) {
	preview, err := a.Shop.PreviewDue(ctx, *req.Body)
	return apigen.PreviewDue200JSONResponse(preview), err
}

func (a *api) LearnedMinutes(ctx context.Context, _ apigen.LearnedMinutesRequestObject) (apigen.LearnedMinutesResponseObject, error) {
	steps, err := a.Shop.LearnedMinutes(ctx)
	return apigen.LearnedMinutes200JSONResponse(steps), err
}

func (a *api) ListInstruments(ctx context.Context, req apigen.ListInstrumentsRequestObject) (apigen.ListInstrumentsResponseObject, error) {
	tools, err := a.Shop.Instruments(ctx, valueOr(req.Params.Retired, false))
	return apigen.ListInstruments200JSONResponse(tools), err
}

func (a *api) GetInstrument(ctx context.Context, req apigen.GetInstrumentRequestObject) (apigen.GetInstrumentResponseObject, error) {
	tool, err := a.Shop.Instrument(ctx, req.Instrument)
	return apigen.GetInstrument200JSONResponse(tool), err
}

func (a *api) AddInstrument(ctx context.Context, req apigen.AddInstrumentRequestObject) (apigen.AddInstrumentResponseObject, error) {
	tool, err := a.Shop.AddInstrument(ctx, actor(ctx), *req.Body)
	return apigen.AddInstrument201JSONResponse(tool), err
}

func (a *api) ChangeInstrument(ctx context.Context, req apigen.ChangeInstrumentRequestObject) (apigen.ChangeInstrumentResponseObject, error) {
	tool, err := a.Shop.ChangeInstrument(ctx, actor(ctx), req.Instrument, req.Body.Version, req.Body.Facts)
	return apigen.ChangeInstrument200JSONResponse(tool), err
}

func (a *api) RetireInstrument(ctx context.Context, req apigen.RetireInstrumentRequestObject) (apigen.RetireInstrumentResponseObject, error) {
	tool, err := a.Shop.RetireInstrument(ctx, actor(ctx), req.Instrument, req.Body.Version, req.Body.Retired)
	return apigen.RetireInstrument200JSONResponse(tool), err
}

func (a *api) ReadZero(ctx context.Context, req apigen.ReadZeroRequestObject) (apigen.ReadZeroResponseObject, error) {
	understood, err := a.Shop.ReadZero(ctx, req.Instrument, *req.Body)
	return apigen.ReadZero200JSONResponse(understood), err
}

func (a *api) CheckZero(ctx context.Context, req apigen.CheckZeroRequestObject) (apigen.CheckZeroResponseObject, error) {
	tool, err := a.Shop.CheckZero(ctx, actor(ctx), req.Instrument, *req.Body)
	return apigen.CheckZero201JSONResponse(tool), err
}
