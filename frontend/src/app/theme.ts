/** The component library in our colours, faces and density. */
import { theme as antTheme, type ThemeConfig } from "antd";
import { SANS, type Palette } from "../figure/palette";

export function componentTheme(palette: Palette, isDark: boolean): ThemeConfig {
  return {
    algorithm: isDark ? antTheme.darkAlgorithm : antTheme.defaultAlgorithm,
    token: {
      fontFamily: SANS,
      fontSize: 14,
      colorPrimary: palette.lagoon,
      colorInfo: palette.lagoon,
      colorLink: palette.lagoon,
      colorError: palette.ember,
      colorWarning: palette.wheat,
      colorText: palette.ink,
      colorTextSecondary: palette.muted,
      colorTextPlaceholder: palette.muted,
      colorBorder: palette.rule,
      colorBorderSecondary: palette.rule,
      colorBgContainer: palette.card,
      colorBgElevated: palette.card,
      colorBgLayout: palette.paper,
      borderRadius: 7,
      controlHeight: 30,
      motionDurationMid: "0.12s",
      motionDurationSlow: "0.16s",
      controlOutline: palette.lagoonPale,
    },
    components: {
      Button: {
        fontWeight: 600,
        primaryColor: isDark ? palette.paper : palette.card,
        primaryShadow: "none",
        defaultShadow: "none",
      },
      Tabs: {
        titleFontSize: 14,
        inkBarColor: palette.ember,
        itemSelectedColor: palette.ink,
        horizontalItemPadding: "8px 0",
      },
      Segmented: {
        itemSelectedBg: palette.lagoonPale,
        itemSelectedColor: palette.lagoon,
        trackBg: palette.card,
      },
      Table: {
        cellPaddingBlockSM: 4,
        cellPaddingInlineSM: 10,
        headerBg: palette.paper,
        headerColor: palette.muted,
      },
    },
  };
}
