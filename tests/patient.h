// Included before each test: what is waited for may take long on a busy machine, and is not wrong for that.
#pragma once

#include <QtTest>

#undef QTRY_VERIFY
#undef QTRY_VERIFY2
#undef QTRY_COMPARE
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
constexpr int patient_ms = 600000;
#else
constexpr int patient_ms = 120000;
#endif
#define QTRY_VERIFY(expression) QTRY_VERIFY_WITH_TIMEOUT((expression), patient_ms)
#define QTRY_VERIFY2(expression, text) QTRY_VERIFY2_WITH_TIMEOUT((expression), text, patient_ms)
#define QTRY_COMPARE(found, expected) QTRY_COMPARE_WITH_TIMEOUT((found), (expected), patient_ms)
