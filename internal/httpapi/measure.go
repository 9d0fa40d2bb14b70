package httpapi

import (
	"context"

	"earnestpony/internal/httpapi/apigen"
)

func (a *api) ReadBench(ctx context.Context, req apigen.ReadBenchRequestObject) (apigen.ReadBenchResponseObject, error) {
	answer, err := a.Shop.ReadBench(ctx, *req.Body)
	return apigen.ReadBench200JSONResponse(answer), err
}

func (a *api) RecordMeasurement(ctx context.Context, req apigen.RecordMeasurementRequestObject) (apigen.RecordMeasurementResponseObject, error) {
	m, err := a.Shop.RecordMeasurement(ctx, actor(ctx), req.Tag, *req.Body)
	return apigen.RecordMeasurement201JSONResponse(m), err
}

func (a *api) Countersign(ctx context.Context, req apigen.CountersignRequestObject) (apigen.CountersignResponseObject, error) {
	m, err := a.Shop.Countersign(ctx, actor(ctx), req.Entry)
	return apigen.Countersign200JSONResponse(m), err
}

func (a *api) SimulateReading(_ context.Context, req apigen.SimulateReadingRequestObject) (apigen.SimulateReadingResponseObject, error) {
	text, err := a.Shop.SimulateReading(*req.Body)
	return apigen.SimulateReading200JSONResponse{Text: text}, err
}

const pageOfEntries = 50

func (a *api) ListLedger(ctx context.Context, req apigen.ListLedgerRequestObject) (apigen.ListLedgerResponseObject, error) {
	page, err := a.Shop.Ledger(ctx, req.Tag, valueOr(req.Params.Before, 0), valueOr(req.Params.Limit, pageOfEntries))
	return apigen.ListLedger200JSONResponse(page), err
}

func (a *api) PreviewRules(ctx context.Context, req apigen.PreviewRulesRequestObject) (apigen.PreviewRulesResponseObject, error) {
	preview, err := a.Shop.PreviewRules(ctx, *req.Body)
	return apigen.PreviewRules200JSONResponse(preview), err
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
