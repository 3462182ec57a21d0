"""Samples and what is behind them, blended in linear light."""
