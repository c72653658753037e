// Included before each test: what is waited for may take long on a busy machine, and is not wrong for that.
#pragma once

#include <QtTest>

#undef QTRY_VERIFY
#undef QTRY_VERIFY2
#undef QTRY_COMPARE
#define QTRY_VERIFY(expression) QTRY_VERIFY_WITH_TIMEOUT((expression), 120000)
#define QTRY_VERIFY2(expression, text) QTRY_VERIFY2_WITH_TIMEOUT((expression), text, 120000)
#define QTRY_COMPARE(found, expected) QTRY_COMPARE_WITH_TIMEOUT((found), (expected), 120000)
